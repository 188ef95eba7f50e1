import { emptySketch, mergeInto, pairsOf, type Sketch } from '../stats/sketch';
import type { Buckets, HistogramPoint, Layout } from './points';
import { addRate, type Bins } from './bins';
import { layoutKey, MAX_BUCKETS } from './chunk';
import { silenceOf, stretchOf } from './increases';

/** What came to a histogram over a stretch of time. */
export interface Distribution {
  count: number;
  /** NaN where a part of it did not tell. */
  sum: number;
  layout: Layout;
  positive: Sketch;
  negative: Sketch;
  zero: number;
}

/** A distribution and when it came, epoch milliseconds. */
export interface TimedDistribution extends Distribution {
  fromMs: number;
  toMs: number;
}

/**
 * What came between the points of a histogram. Resets and streams are told apart as for sums.
 * @param points ascending in time
 */
export function distributionsOf(points: readonly HistogramPoint[], isDelta: boolean): TimedDistribution[] {
  const silentMs = silenceOf(Float64Array.from(points, ({ atMs }) => atMs));
  const found: TimedDistribution[] = [];
  const last = new Map<number, HistogramPoint>();
  for (const point of points) {
    const stream = isDelta ? 0 : point.startMs;
    const before = last.get(stream);
    last.set(stream, point);
    const fromMs = isDelta ? Math.max(point.startMs, before?.atMs ?? 0) : (before?.atMs ?? point.startMs);
    const stretch = stretchOf(fromMs, point.atMs, silentMs);
    if (!stretch) continue;
    const since = isDelta || !before ? null : difference(point, before);
    found.push({ ...stretch, ...(since ?? whole(point)) });
  }
  return found;
}

/** Puts what a histogram's values add up to into bins, as a rate a second: of durations the share of the time they took. */
export function addAmounts(bins: Bins, parts: readonly TimedDistribution[]): void {
  for (const { fromMs, toMs, sum } of parts)
    if (Number.isFinite(sum) && toMs > fromMs) addRate(bins, fromMs, toMs, (sum / (toMs - fromMs)) * 1000);
}

const sketchOf = ({ low, counts }: Buckets): Sketch => ({ low, counts: Float64Array.from(counts) });

const whole = ({ count, sum, layout, positive, negative, zero }: HistogramPoint): Distribution => ({
  count,
  sum,
  layout,
  positive: sketchOf(positive),
  negative: sketchOf(negative),
  zero
});

/** What a cumulative histogram grew by; null where it was set back, or counts by other bounds now. */
function difference(point: HistogramPoint, before: HistogramPoint): Distribution | null {
  const [now, then] = alike(whole(point), whole(before)) ?? [];
  if (!now || !then || now.count < then.count || now.zero < then.zero) return null;
  for (const side of ['positive', 'negative'] as const) {
    for (const [bucket, count] of pairsOf(then[side])) {
      const at = bucket - now[side].low;
      if (!(now[side].counts[at] >= count)) return null;
      now[side].counts[at] -= count;
    }
  }
  return { ...now, count: now.count - then.count, zero: now.zero - then.zero, sum: now.sum - then.sum };
}

/** Adds a distribution to another. @returns null where their bounds differ, and nothing can be said of both together. */
export function merged(a: Distribution, b: Distribution): Distribution | null {
  const [to, from] = alike(a, b) ?? [];
  if (!to || !from) return null;
  const sum: Distribution = {
    count: to.count + from.count,
    sum: to.sum + from.sum,
    layout: to.layout,
    positive: sketchOf(to.positive),
    negative: sketchOf(to.negative),
    zero: to.zero + from.zero
  };
  mergeInto(sum.positive, from.positive);
  mergeInto(sum.negative, from.negative);
  return sum;
}

/** Both by one layout: exponential ones by the coarser of the two, or one so coarse that the buckets of both fit; null where that cannot be. */
function alike(a: Distribution, b: Distribution): [Distribution, Distribution] | null {
  if (a.layout.kind === 'explicit' || b.layout.kind === 'explicit')
    return layoutKey(a.layout) === layoutKey(b.layout) ? [a, b] : null;
  let scale = Math.min(a.layout.scale, b.layout.scale);
  while (!fit([a, b], scale)) scale--;
  const zeroThreshold = Math.max(a.layout.zeroThreshold, b.layout.zeroThreshold);
  return [coarser(a, scale, zeroThreshold), coarser(b, scale, zeroThreshold)];
}

/** Whether no side of some distributions would have more buckets than are kept, by a scale: values far apart would fill the memory. */
function fit(list: readonly Distribution[], scale: number): boolean {
  return (['positive', 'negative'] as const).every((side) => {
    let [least, greatest] = [Infinity, -Infinity];
    for (const of of list) {
      const shift = (of.layout as { scale: number }).scale - scale;
      const { low, counts } = of[side];
      if (counts.length === 0) continue;
      least = Math.min(least, Math.floor(low / 2 ** shift));
      greatest = Math.max(greatest, Math.floor((low + counts.length - 1) / 2 ** shift));
    }
    return !(greatest - least >= MAX_BUCKETS);
  });
}

/**
 * An exponential distribution by a smaller scale: 2^k neighbouring buckets become one, index i goes to i >> k (OpenTelemetry metrics data model,
 * "Exponential scale": perfect subsetting). A wider zero threshold takes in the buckets that end below it.
 */
function coarser(of: Distribution, scale: number, zeroThreshold: number): Distribution {
  const layout = { kind: 'exponential' as const, scale, zeroThreshold };
  const from = of.layout as { scale: number; zeroThreshold: number };
  if (from.scale === scale && from.zeroThreshold === zeroThreshold) return of;
  const shift = from.scale - scale;
  let { zero } = of;
  const side = (sketch: Sketch): Sketch => {
    const wide = emptySketch();
    for (const [bucket, count] of pairsOf(sketch)) {
      const at = Math.floor(bucket / 2 ** shift);
      if (upperBound(scale, at) <= zeroThreshold) zero += count;
      else mergeInto(wide, { low: at, counts: Float64Array.of(count) });
    }
    return wide;
  };
  const [positive, negative] = [side(of.positive), side(of.negative)];
  return { ...of, layout, positive, negative, zero };
}

/** Upper bound of bucket i: base^(i+1), base = 2^(2^−scale) (OpenTelemetry metrics data model, "Exponential scale"). */
export const upperBound = (scale: number, bucket: number): number => 2 ** ((bucket + 1) * 2 ** -scale);

/** A quantile of a histogram: the value lies between the two bounds, which the format tells, and is taken to be where the third says. */
export interface BoundedQuantile {
  value: number;
  low: number;
  /** Infinity where the last bucket has no upper bound: the value is at least `low`. */
  high: number;
}

/**
 * A quantile within what the buckets tell. Of explicit bounds it is taken to lie in its bucket by its rank (linear interpolation, as common practice has
 * it), of exponential ones where the relative error is least either way: 2·base / (base + 1) of the lower bound, off by at most
 * (base − 1) / (base + 1). Null where nothing was counted, or no buckets are told.
 */
export function histogramQuantile(of: Distribution, p: number): BoundedQuantile | null {
  const buckets =
    of.layout.kind === 'explicit' ? explicitBuckets(of, of.layout.bounds) : exponentialBuckets(of, of.layout);
  const total = buckets.reduce((sum, { count }) => sum + count, 0);
  if (total <= 0) return null;
  let before = 0;
  const rank = p * total;
  for (const { low, high, count, typical } of buckets) {
    if (count === 0) continue;
    if (before + count >= rank) {
      const share = Math.max(0, Math.min(1, (rank - before) / count));
      const value =
        typical ??
        (Number.isFinite(high - low) ? low + (high - low) * share : Number.isFinite(low) ? low : high);
      return { value, low, high };
    }
    before += count;
  }
  const last = buckets.findLast(({ count }) => count > 0)!;
  return { value: last.typical ?? last.low, low: last.low, high: last.high };
}

interface Bounded {
  low: number;
  high: number;
  count: number;
  /** What stands for all in it, where that is not by rank. */
  typical?: number;
}

/** The lowest bucket begins at zero where its bound is above: what is measured so is seldom below (common practice). */
function explicitBuckets({ positive }: Distribution, bounds: readonly number[]): Bounded[] {
  return Array.from({ length: bounds.length + 1 }, (_, i) => ({
    low: i > 0 ? bounds[i - 1] : bounds[0] > 0 ? 0 : -Infinity,
    high: bounds[i] ?? Infinity,
    count: positive.counts[i - positive.low] ?? 0
  }));
}

function exponentialBuckets(
  { positive, negative, zero }: Distribution,
  { scale, zeroThreshold }: { scale: number; zeroThreshold: number }
): Bounded[] {
  const base = upperBound(scale, 0);
  const side = (sketch: Sketch): Bounded[] =>
    [...pairsOf(sketch)].map(([bucket, count]) => {
      const low = upperBound(scale, bucket - 1);
      return { low, high: upperBound(scale, bucket), count, typical: (low * 2 * base) / (base + 1) };
    });
  const below = side(negative)
    .reverse()
    .map(({ low, high, count, typical }) => ({ low: -high, high: -low, count, typical: -typical! }));
  return [...below, { low: -zeroThreshold, high: zeroThreshold, count: zero, typical: 0 }, ...side(positive)];
}
