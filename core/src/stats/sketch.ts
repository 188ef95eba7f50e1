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

/** The p-quantiles, in the order asked; NaN where the sketch is empty. */
export function sketchQuantiles(sketch: Sketch, ps: readonly number[]): number[] {
  const buckets = [...sketch].sort((a, b) => a[0] - b[0]);
  const total = buckets.reduce((sum, [, count]) => sum + count, 0);
  return ps.map((p) => {
    if (total <= 0) return NaN;
    const rank = p * (total - 1);
    let seen = 0;
    for (const [bucket, count] of buckets) {
      seen += count;
      if (seen > rank) return valueOf(bucket);
    }
    return valueOf(buckets[buckets.length - 1][0]);
  });
}

/** Text form for storage: `bucket:count` pairs, ascending. */
export function writeSketch(sketch: Sketch): string {
  return [...sketch]
    .sort((a, b) => a[0] - b[0])
    .map(([bucket, count]) => `${bucket}:${count}`)
    .join(' ');
}

export function readSketch(text: string): Sketch {
  const sketch: Sketch = new Map();
  if (text === '') return sketch;
  for (const pair of text.split(' ')) {
    const colon = pair.indexOf(':');
    addBucket(sketch, Number(pair.slice(0, colon)), Number(pair.slice(colon + 1)));
  }
  return sketch;
}
