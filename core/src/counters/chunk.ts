import { ByteReader, ByteWriter } from './bytes';
import { readEven, readNear, readNumbers, writeEven, writeNear, writeNumbers } from './columns';
import type { Buckets, HistogramPoint, Layout, NumberPoint } from './points';

// Points of one series as bytes, column by column, for a general compressor to follow.

/** Version of the form; a reader refuses others. */
const VERSION = 1;

/** Number points as columns of equal length, ascending in time. */
export interface NumberColumns {
  atMs: Float64Array;
  startMs: Float64Array;
  values: Float64Array;
}

export function columnsOf(points: readonly NumberPoint[]): NumberColumns {
  return {
    atMs: Float64Array.from(points, ({ atMs }) => atMs),
    startMs: Float64Array.from(points, ({ startMs }) => startMs),
    values: Float64Array.from(points, ({ value }) => value)
  };
}

export function encodeNumbers(columns: NumberColumns): Uint8Array {
  const writer = new ByteWriter();
  writer.bytes(encodeTimes(columns));
  writer.bytes(encodeValues(columns.values));
  return writer.take();
}

/** @throws RangeError where the bytes are damaged or of another version */
export function decodeNumbers(bytes: Uint8Array): NumberColumns {
  const { reader, atMs } = opened(bytes);
  return { atMs, startMs: readNear(reader, atMs.length), values: readNumbers(reader, atMs.length) };
}

/** The times alone: all series of a sender have the same, and can share them. */
export function encodeTimes({ atMs, startMs }: Pick<NumberColumns, 'atMs' | 'startMs'>): Uint8Array {
  const writer = begin(atMs);
  writeNear(writer, startMs);
  return writer.take();
}

/** The values alone. */
export function encodeValues(values: Float64Array): Uint8Array {
  const writer = new ByteWriter();
  writeNumbers(writer, values);
  return writer.take();
}

/** Times and values that were written apart. @throws RangeError where the bytes are damaged or of another version */
export function decodeTimesAndValues(times: Uint8Array, values: Uint8Array): NumberColumns {
  const { reader, atMs } = opened(times);
  const { length } = atMs;
  return { atMs, startMs: readNear(reader, length), values: readNumbers(new ByteReader(values), length) };
}

/** Points of a histogram, ascending in time. Layouts may change on the way. */
export function encodeHistograms(points: readonly HistogramPoint[]): Uint8Array {
  const writer = begin(points.map(({ atMs }) => atMs));
  writeNear(
    writer,
    points.map(({ startMs }) => startMs)
  );
  for (const column of ['count', 'sum', 'min', 'max', 'zero'] as const)
    writeNumbers(
      writer,
      Float64Array.from(points, (point) => point[column])
    );
  const layouts = new Map<string, number>();
  const numbers = points.map(({ layout }) => {
    const key = layoutKey(layout);
    if (!layouts.has(key)) layouts.set(key, layouts.size);
    return layouts.get(key)!;
  });
  writer.count(layouts.size);
  for (const number of layouts.values()) writeLayout(writer, points[numbers.indexOf(number)].layout);
  writeNear(writer, numbers);
  for (const side of ['positive', 'negative'] as const)
    writeBuckets(
      writer,
      points.map((point) => point[side])
    );
  return writer.take();
}

/** @throws RangeError where the bytes are damaged or of another version */
export function decodeHistograms(bytes: Uint8Array): HistogramPoint[] {
  const { reader, atMs } = opened(bytes);
  const { length } = atMs;
  const startMs = readNear(reader, length);
  const [count, sum, min, max, zero] = Array.from({ length: 5 }, () => readNumbers(reader, length));
  const layouts = Array.from({ length: Math.min(reader.count(), length) }, () => readLayout(reader));
  const numbers = readNear(reader, length);
  const positive = readBuckets(reader, length);
  const negative = readBuckets(reader, length);
  return Array.from({ length }, (_, i) => ({
    atMs: atMs[i],
    startMs: startMs[i],
    count: count[i],
    sum: sum[i],
    min: min[i],
    max: max[i],
    zero: zero[i],
    layout: layouts[numbers[i]],
    positive: positive[i],
    negative: negative[i]
  }));
}

/** Equal texts, equal layouts. */
export const layoutKey = (layout: Layout): string =>
  layout.kind === 'explicit'
    ? layout.bounds.join(' ')
    : `exponential ${layout.scale} ${layout.zeroThreshold}`;

function begin(atMs: ArrayLike<number>): ByteWriter {
  const writer = new ByteWriter();
  writer.count(VERSION);
  writer.count(atMs.length);
  writeEven(writer, atMs);
  return writer;
}

function opened(bytes: Uint8Array): { reader: ByteReader; atMs: Float64Array } {
  const reader = new ByteReader(bytes);
  const version = reader.count();
  if (version !== VERSION) throw new RangeError(`Unknown form of counters: ${version}.`);
  const length = reader.count();
  // Every point takes a byte at the least: a forged length must not fill the memory.
  if (length > bytes.length) throw new RangeError('More points are named than there are bytes.');
  return { reader, atMs: readEven(reader, length) };
}

function writeLayout(writer: ByteWriter, layout: Layout): void {
  if (layout.kind === 'explicit') {
    writer.count(0);
    writer.count(layout.bounds.length);
    for (const bound of layout.bounds) writer.double(bound);
  } else {
    writer.count(1);
    writer.signed(layout.scale);
    writer.double(layout.zeroThreshold);
  }
}

function readLayout(reader: ByteReader): Layout {
  if (reader.count() === 1)
    return { kind: 'exponential', scale: reader.signed(), zeroThreshold: reader.double() };
  const bounds: number[] = [];
  for (let left = reader.count(); left > 0; left--) bounds.push(reader.double());
  return { kind: 'explicit', bounds };
}

/** Each as the difference from the one before: most buckets stay as they are from point to point. */
function writeBuckets(writer: ByteWriter, all: readonly Buckets[]): void {
  let before: Buckets = NONE;
  for (const buckets of all) {
    writer.signed(buckets.low - before.low);
    writer.count(buckets.counts.length);
    for (let i = 0; i < buckets.counts.length; i++)
      writer.signed(buckets.counts[i] - (before.counts[i + buckets.low - before.low] ?? 0));
    before = buckets;
  }
}

function readBuckets(reader: ByteReader, length: number): Buckets[] {
  let before: Buckets = NONE;
  return Array.from({ length }, () => {
    const low = before.low + reader.signed();
    const size = reader.count();
    if (size > MAX_BUCKETS) throw new RangeError(`A histogram of ${size} buckets cannot be.`);
    const counts = new Float64Array(size);
    for (let i = 0; i < size; i++) counts[i] = (before.counts[i + low - before.low] ?? 0) + reader.signed();
    return (before = { low, counts });
  });
}

const NONE: Buckets = { low: 0, counts: new Float64Array() };

/** Buckets of one point that are taken in. SDKs write 160 by default (OpenTelemetry SDK specification, `MaxSize`). */
export const MAX_BUCKETS = 4096;
