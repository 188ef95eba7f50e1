import { eachSide, type Side, type Sides } from '../sides';
import { dependenceOf, type Dependence } from '../stats/autocorrelation';
import { resampleQuantiles } from '../stats/block-bootstrap';
import { percentileInterval, LEVEL, type Interval } from '../stats/interval';
import { momentsOf } from '../stats/moments';
import { quantiles, quantileSorted } from '../stats/percentile';
import { rankTestOf } from '../stats/rank-test';

/** The figures a comparison is about: the middle of the requests, and their slow end. */
export const STATISTICS = { median: 0.5, p95: 0.95 } as const;
export type Statistic = keyof typeof STATISTICS;

/** One figure of both sides. Durations in the unit of the samples. */
export interface Change {
  sides: Sides<number>;
  sidesWithin: Sides<Interval>;
  /** After − before, and where that lies. */
  difference: number;
  differenceWithin: Interval;
  /** After ÷ before, and where that lies; null where one of them is not above 0. */
  ratio: number | null;
  ratioWithin: Interval | null;
}

export type Clearness = 'faster' | 'slower' | 'no clear change' | 'too few' | 'only sums';

/** The figures of some durations. */
export function figuresOf(durations: ArrayLike<number>): Record<Statistic, number> {
  const [median, p95] = quantiles(durations, [STATISTICS.median, STATISTICS.p95]);
  return { median, p95 };
}

/** What the samples of two sides say, and how sure that is. */
export interface HowSure {
  count: Sides<number>;
  /** So many independent samples would tell as much. */
  effective: Sides<number>;
  /** Null with too few samples for it. */
  changes: Record<Statistic, Change | null>;
  /** Probability that a sample of the second side is shorter than one of the first; ties count half. Null where a side is empty. */
  faster: number | null;
  /** Two-sided probability of such ranks by chance alone. */
  p: number | null;
  /** The smallest change of the median, as a share of it, that these samples show in 80 of 100 times; null where it cannot be told. */
  visible: number | null;
  verdict: Clearness;
  /** Which figure the verdict is about; null where nothing is clear. */
  about: Statistic | null;
}

/** What is said of sides whose requests are not kept one by one. */
export const ONLY_SUMS: HowSure = {
  count: { before: 0, after: 0 },
  effective: { before: 0, after: 0 },
  changes: { median: null, p95: null },
  faster: null,
  p: null,
  visible: null,
  verdict: 'only sums',
  about: null
};

export interface SureOptions {
  seed?: number;
  resamples?: number;
  /**
   * Of several comparisons at once: the share of the ordinary error that each may have, above 0 and at most 1 (see `compareMany`). Intervals become wider, and what is clear must
   * be clearer.
   */
  among?: number;
  /** Called now and then with the share that is done, 0 to 1. */
  onProgress?: (share: number) => void;
}

export const RESAMPLES = 2000;
/** With fewer samples on a side nothing is said. Common practice. */
export const LEAST_SAMPLES = 10;
/** Fewer independent samples than this estimate their own dependence roughly, and must differ the more. By simulation, see the tests. */
const FEW_EFFECTIVE = 50;
/** So many independent samples beyond a quantile, else its interval is guesswork: 5 beyond p95 are 100 samples. */
const LEAST_BEYOND = 5;
/** 80 of 100 times beyond a 95 % interval: z of 0.975 and of 0.8 (tables of the standard normal distribution). */
const POWER_Z = 1.96 + 0.8416;

/** What must hold for a change to be clear: two figures are looked at, so that each errs less often than one alone might. */
const CLEAR = {
  few: { level: 0.99, p: 0.01 },
  median: { level: LEVEL, p: 0.05 },
  p95: { level: 0.985 }
};

/**
 * How sure a change is. Samples are durations in order of time: what neighbours have in common is taken into account.
 * @returns the same for the same samples and seed.
 */
export function howSure(samples: Sides<Float64Array>, options: SureOptions = {}): HowSure {
  const { seed = 1, resamples = RESAMPLES, among = 1, onProgress = () => undefined } = options;
  const dependence = eachSide(samples, dependenceOf);
  const count = eachSide(samples, ({ length }) => length);
  const effective = eachSide(dependence, (of) => of.effective);
  const rank = rankTestOf(samples.before, samples.after, {
    first: count.before / effective.before,
    second: count.after / effective.after
  });
  const level = levelFor(LEVEL, among);
  const said = {
    count,
    effective,
    faster: rank && 1 - rank.superiority,
    p: rank?.p ?? null
  };
  const fewest = Math.min(count.before, count.after);
  if (fewest < LEAST_SAMPLES)
    return { ...said, changes: { median: null, p95: null }, visible: null, verdict: 'too few', about: null };
  const drawn = eachSide(samples, (values, which) =>
    drawSide(values, dependence[which], which, { seed, resamples, onProgress })
  );
  const looks = {
    median: new Look(eachSide(drawn, ({ median }) => median)),
    p95: new Look(eachSide(drawn, ({ p95 }) => p95))
  };
  const fewestEffective = Math.min(effective.before, effective.after);
  const tail = fewestEffective * (1 - STATISTICS.p95) >= LEAST_BEYOND;
  const about = clearOne(looks, { tail, effective: fewestEffective, p: rank!.p, among });
  onProgress(1);
  return {
    ...said,
    changes: { median: looks.median.change(level), p95: tail ? looks.p95.change(level) : null },
    visible: looks.median.visible(),
    verdict: about === null ? 'no clear change' : looks[about].difference < 0 ? 'faster' : 'slower',
    about
  };
}

/** A level at which an interval errs less often, as one of several. */
const levelFor = (level: number, among: number): number => 1 - (1 - level) * among;

interface Circumstances {
  /** Whether there are enough samples beyond p95. */
  tail: boolean;
  /** Independent samples of the side that has fewer. */
  effective: number;
  p: number;
  among: number;
}

/** What is asked of a median. @param effective independent samples of the side that has fewer */
export const askedOfMedian = (effective: number): { level: number; p: number } =>
  effective < FEW_EFFECTIVE ? CLEAR.few : CLEAR.median;

/** The figure that clearly changed: the median, else p95; null for neither. */
function clearOne(
  looks: Record<Statistic, Look>,
  { tail, effective, p, among }: Circumstances
): Statistic | null {
  const few = effective < FEW_EFFECTIVE;
  const median = askedOfMedian(effective);
  if (looks.median.isBeyond(levelFor(median.level, among)) && p <= median.p * among) return 'median';
  return tail && !few && looks.p95.isBeyond(levelFor(CLEAR.p95.level, among)) ? 'p95' : null;
}

/** A figure of one side, and of its resamples. */
interface Drawn {
  estimate: number;
  resampled: Float64Array;
}

function drawSide(
  values: Float64Array,
  { blockLength, stretch }: Dependence,
  which: Side,
  { seed, resamples, onProgress }: Required<Omit<SureOptions, 'among'>>
): Record<Statistic, Drawn> {
  const second = which === 'after' ? 1 : 0;
  const sorted = values.slice().sort();
  const found = resampleQuantiles(values, [STATISTICS.median, STATISTICS.p95], {
    blockLength,
    resamples,
    // The sides are drawn independently of each other.
    seed: seed * 2 + second,
    onProgress: (share) => onProgress((share + second) / 2)
  });
  const drawn = (statistic: Statistic, column: number): Drawn => {
    const estimate = quantileSorted(sorted, STATISTICS[statistic]);
    return { estimate, resampled: found[column].map((value) => estimate + stretch * (value - estimate)) };
  };
  return { median: drawn('median', 0), p95: drawn('p95', 1) };
}

/** One figure looked at on both sides. */
class Look {
  readonly #sides: Sides<number>;
  readonly #drawn: Sides<Drawn>;
  readonly #differences: Float64Array;
  readonly #ratios: Float64Array | null;

  constructor(drawn: Sides<Drawn>) {
    this.#drawn = drawn;
    this.#sides = eachSide(drawn, ({ estimate }) => estimate);
    const { before, after } = eachSide(drawn, ({ resampled }) => resampled);
    this.#differences = after.map((value, i) => value - before[i]);
    const positive = this.#sides.after > 0 && before.every((value) => value > 0);
    this.#ratios = positive ? after.map((value, i) => Math.max(0, value) / before[i]) : null;
  }

  get difference(): number {
    return this.#sides.after - this.#sides.before;
  }

  change(level: number): Change {
    return {
      sides: this.#sides,
      sidesWithin: eachSide(this.#drawn, ({ resampled }) => percentileInterval(resampled, level)),
      difference: this.difference,
      differenceWithin: percentileInterval(this.#differences, level),
      ratio: this.#ratios && this.#sides.after / this.#sides.before,
      ratioWithin: this.#ratios && percentileInterval(this.#ratios, level)
    };
  }

  /** Whether no change at all lies outside the interval. */
  isBeyond(level: number): boolean {
    const { low, high } = percentileInterval(this.#differences, level);
    return low > 0 || high < 0;
  }

  visible(): number | null {
    if (this.#ratios === null) return null;
    return (POWER_Z * momentsOf(this.#differences).deviation) / this.#sides.before;
  }
}
