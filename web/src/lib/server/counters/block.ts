import { deflateRawSync, inflateRawSync } from 'node:zlib';
import {
  decodeHistograms,
  decodeNumbers,
  decodeTimesAndValues,
  encodeHistograms,
  encodeNumbers,
  type NumberColumns
} from '@tromix/core/counters/chunk';
import type { HistogramPoint } from '@tromix/core/counters/points';

/** Points of one series, ascending in time, each moment once. */
export type SeriesPoints =
  { kind: 'numbers'; columns: NumberColumns } | { kind: 'histograms'; points: HistogramPoint[] };

/** What a block may inflate to, bytes: far more than is ever written into one. */
const MAX_BLOCK = 64 * 1024 * 1024;

/** @param packed compressed: for blocks that are complete */
export function blockBytes(points: SeriesPoints, packed: boolean): Uint8Array {
  const bytes = points.kind === 'numbers' ? encodeNumbers(points.columns) : encodeHistograms(points.points);
  return packed ? pack(bytes) : bytes;
}

/** A block is small: a small window is enough, and set up faster. */
export const pack = (bytes: Uint8Array): Uint8Array => deflateRawSync(bytes, { level: 6, memLevel: 6 });
export const unpack = (bytes: Uint8Array): Uint8Array =>
  inflateRawSync(bytes, { maxOutputLength: MAX_BLOCK });

/** What is selected of a block, named b, to read its points. */
export const BLOCK_BYTES = 'b.packed, b.data, (SELECT t.data FROM counter_times t WHERE t.id = b.times_id)';
export type BlockBytes = readonly [packed: unknown, data: unknown, times: unknown];

/** The points of a block. @throws RangeError or Error where the bytes are damaged */
export function pointsOfBlock([packed, data, times]: BlockBytes, isHistogram: boolean): SeriesPoints {
  const plain = packed === 1 ? unpack(bytesOf(data)) : bytesOf(data);
  if (isHistogram) return { kind: 'histograms', points: decodeHistograms(plain) };
  const columns = times ? decodeTimesAndValues(unpack(bytesOf(times)), plain) : decodeNumbers(plain);
  return { kind: 'numbers', columns };
}

/** A BLOB as the database gives it, or bytes at hand. */
export const bytesOf = (blob: unknown): Uint8Array =>
  blob instanceof Uint8Array ? blob : new Uint8Array(blob as ArrayBuffer);
