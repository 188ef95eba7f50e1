import { deflateRawSync, inflateRawSync } from 'node:zlib';
import {
  decodeHistograms,
  decodeNumbers,
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

/** @throws RangeError or Error where the bytes are damaged */
export function pointsOfBlock(bytes: Uint8Array, packed: boolean, isHistogram: boolean): SeriesPoints {
  const plain = packed ? unpack(bytes) : bytes;
  return isHistogram
    ? { kind: 'histograms', points: decodeHistograms(plain) }
    : { kind: 'numbers', columns: decodeNumbers(plain) };
}
