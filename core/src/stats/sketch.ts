/**
 * A mergeable latency sketch: counts in buckets whose bounds grow by a fixed ratio, so that a quantile is off by at
 * most 1 % of its value, and a count that was added can be taken back exactly.
 * Source: log-linear/logarithmic histogram sketches (general technique); γ = (1 + α) / (1 − α) for relative error α.
 * Values are positive numbers of one unit; values below 1 share the lowest bucket.
 */
export const SKETCH_ERROR = 0.01;
const GAMMA = (1 + SKETCH_ERROR) / (1 - SKETCH_ERROR);
const LOG_GAMMA = Math.log(GAMMA);

/** Bucket number → count. */
export type Sketch = Map<number, number>;

export function bucketOf(value: number): number {
  return value <= 1 ? 0 : Math.ceil(Math.log(value) / LOG_GAMMA);
}

/** The value a bucket stands for: within 1 % of everything in it. */
export function valueOf(bucket: number): number {
  return bucket === 0 ? 1 : (2 * GAMMA ** bucket) / (GAMMA + 1);
}

/** Adds `count` values of a bucket; a negative count takes them back. */
export function addBucket(sketch: Sketch, bucket: number, count: number): void {
  const sum = (sketch.get(bucket) ?? 0) + count;
  if (sum === 0) sketch.delete(bucket);
  else sketch.set(bucket, sum);
}

export function mergeInto(target: Sketch, source: Sketch): void {
  for (const [bucket, count] of source) addBucket(target, bucket, count);
}

/** The buckets of a sketch, or of two, ascending, each once. A typed array filled by hand sorts many times faster than a list. */
export function bucketsOf(sketch: Sketch, other: Sketch = new Map()): Uint32Array {
  const buckets = new Uint32Array(sketch.size + other.size);
  let length = 0;
  for (const bucket of sketch.keys()) buckets[length++] = bucket;
  for (const bucket of other.keys()) if (!sketch.has(bucket)) buckets[length++] = bucket;
  return buckets.subarray(0, length).sort();
}

/** How many values a sketch holds. */
export function sketchSize(sketch: Sketch): number {
  let sum = 0;
  for (const count of sketch.values()) sum += count;
  return sum;
}

/** The p-quantiles, in the order asked; NaN where the sketch is empty. */
export function sketchQuantiles(sketch: Sketch, ps: readonly number[]): number[] {
  const total = sketchSize(sketch);
  if (total <= 0) return ps.map(() => NaN);
  const buckets = bucketsOf(sketch);
  return ps.map((p) => {
    const rank = p * (total - 1);
    let seen = 0;
    for (const bucket of buckets) {
      seen += sketch.get(bucket)!;
      if (seen > rank) return valueOf(bucket);
    }
    return valueOf(buckets[buckets.length - 1]);
  });
}

/** Text form for storage: `bucket:count` pairs, ascending. */
export function writeSketch(sketch: Sketch): string {
  return Array.from(bucketsOf(sketch), (bucket) => `${bucket}:${sketch.get(bucket)}`).join(' ');
}

/** Buckets a length of up to 2⁵³ may have, rounded up. */
const MAX_BUCKETS = 2048;
/** Where counts are added up while a text is read; all zero in between. */
const counts = new Float64Array(MAX_BUCKETS);

/**
 * Reads the text form; several of them one after another, with a space between, are added up.
 * Pages read thousands of pairs: it goes by characters, into a plain array.
 */
export function readSketch(text: string): Sketch {
  let low = MAX_BUCKETS;
  let high = -1;
  let bucket = 0;
  let number = 0;
  for (let i = 0; i <= text.length; i++) {
    const code = i < text.length ? text.charCodeAt(i) : SPACE;
    if (code === COLON) {
      bucket = Math.min(number, MAX_BUCKETS - 1);
      number = 0;
    } else if (code === SPACE) {
      if (number > 0) {
        counts[bucket] += number;
        low = Math.min(low, bucket);
        high = Math.max(high, bucket);
      }
      number = 0;
    } else number = number * 10 + code - ZERO;
  }
  const sketch: Sketch = new Map();
  for (let i = low; i <= high; i++) {
    if (counts[i] > 0) sketch.set(i, counts[i]);
    counts[i] = 0;
  }
  return sketch;
}

const SPACE = 32;
const ZERO = 48;
const COLON = 58;
