/**
 * A mergeable latency sketch: counts in buckets whose bounds grow by a fixed ratio, so that a quantile is off by at
 * most 1 % of its value, and a count that was added can be taken back exactly.
 * Source: log-linear/logarithmic histogram sketches (general technique); γ = (1 + α) / (1 − α) for relative error α.
 * Values are positive numbers of one unit; values below 1 share the lowest bucket.
 */
export const SKETCH_ERROR = 0.01;
const GAMMA = (1 + SKETCH_ERROR) / (1 - SKETCH_ERROR);
const LOG_GAMMA = Math.log(GAMMA);

/** Buckets a length of up to 2⁵³ may have, rounded up. */
const MAX_BUCKETS = 2048;
/** Room made beyond a bucket that is new: durations of one kind lie close to each other. */
const SLACK = 8;

/** Counts of neighbouring buckets, many of them 0: plain data that goes from thread to thread. */
export interface Sketch {
  /** Bucket of the first count. */
  low: number;
  counts: Float64Array;
}

const NOTHING = new Float64Array();
export const emptySketch = (): Sketch => ({ low: 0, counts: NOTHING });
export const copyOf = ({ low, counts }: Sketch): Sketch => ({ low, counts: counts.slice() });

export function bucketOf(value: number): number {
  return value <= 1 ? 0 : Math.min(MAX_BUCKETS - 1, Math.ceil(Math.log(value) / LOG_GAMMA));
}

const VALUES = Float64Array.from({ length: MAX_BUCKETS }, (_, bucket) =>
  bucket === 0 ? 1 : (2 * GAMMA ** bucket) / (GAMMA + 1)
);

/** The value a bucket stands for: within 1 % of everything in it. */
export function valueOf(bucket: number): number {
  return VALUES[bucket];
}

/** How many values lie in a bucket. */
export function countIn({ low, counts }: Sketch, bucket: number): number {
  return counts[bucket - low] ?? 0;
}

/** Adds `count` values of a bucket; a negative count takes them back. */
export function addBucket(sketch: Sketch, bucket: number, count: number): void {
  if (bucket < sketch.low || bucket >= sketch.low + sketch.counts.length) widen(sketch, bucket, bucket);
  sketch.counts[bucket - sketch.low] += count;
}

export function mergeInto(target: Sketch, { low, counts }: Sketch): void {
  if (counts.length === 0) return;
  const last = low + counts.length - 1;
  if (low < target.low || last >= target.low + target.counts.length) widen(target, low, last);
  const shift = low - target.low;
  for (let i = 0; i < counts.length; i++) target.counts[shift + i] += counts[i];
}

/** Makes room for the buckets from one to another. */
function widen(sketch: Sketch, from: number, to: number): void {
  const { low, counts } = sketch;
  if (counts.length === 0) {
    sketch.low = from;
    sketch.counts = new Float64Array(to - from + 1);
    return;
  }
  const end = low + counts.length - 1;
  const begin = from < low ? Math.max(0, from - SLACK) : low;
  const wider = new Float64Array((to > end ? to + SLACK : end) - begin + 1);
  wider.set(counts, low - begin);
  sketch.low = begin;
  sketch.counts = wider;
}

/** The buckets that hold values, ascending, with their counts. */
export function* pairsOf({ low, counts }: Sketch): Generator<[bucket: number, count: number]> {
  for (let i = 0; i < counts.length; i++) if (counts[i] !== 0) yield [low + i, counts[i]];
}

/** How many values a sketch holds. */
export function sketchSize({ counts }: Sketch): number {
  let sum = 0;
  for (let i = 0; i < counts.length; i++) sum += counts[i];
  return sum;
}

/**
 * The p-quantiles, in the order asked, by linear interpolation between order statistics as `quantileSorted` does it (type 7): each of the two is
 * within 1 %, and so is what lies between them. NaN where the sketch is empty.
 */
export function sketchQuantiles(sketch: Sketch, ps: readonly number[]): number[] {
  const total = sketchSize(sketch);
  if (total <= 0) return ps.map(() => NaN);
  return ps.map((p) => {
    const at = p * (total - 1);
    const rank = Math.floor(at);
    const [low, high] = valuesAt(sketch, rank);
    return low + (high - low) * (at - rank);
  });
}

/** The values of a rank and of the next one; where there is none, the last. */
function valuesAt({ low, counts }: Sketch, rank: number): [number, number] {
  let seen = 0;
  let found = NaN;
  for (let i = 0; i < counts.length; i++) {
    if (counts[i] === 0) continue;
    seen += counts[i];
    if (Number.isNaN(found) && seen > rank) found = valueOf(low + i);
    if (seen > rank + 1) return [found, valueOf(low + i)];
  }
  return [found, found];
}

/** Text form for storage: `bucket:count` pairs, ascending. */
export function writeSketch({ low, counts }: Sketch): string {
  let text = '';
  for (let i = 0; i < counts.length; i++)
    if (counts[i] !== 0) text += `${text === '' ? '' : ' '}${low + i}:${counts[i]}`;
  return text;
}

/** Where counts are added up while a text is read; all zero in between. */
const room = new Float64Array(MAX_BUCKETS);

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
    if (code >= ZERO && code < COLON) number = number * 10 + code - ZERO;
    else if (code === COLON) {
      bucket = Math.min(number, MAX_BUCKETS - 1);
      number = 0;
    } else {
      if (number > 0) {
        room[bucket] += number;
        if (bucket < low) low = bucket;
        if (bucket > high) high = bucket;
      }
      number = 0;
    }
  }
  if (high < 0) return emptySketch();
  const counts = room.slice(low, high + 1);
  room.fill(0, low, high + 1);
  return { low, counts };
}

const SPACE = 32;
const ZERO = 48;
const COLON = 58;
