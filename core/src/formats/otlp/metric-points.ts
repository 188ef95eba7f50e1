import { MAX_BUCKETS } from '../../counters/chunk';
import type { Buckets, HistogramPoint, Layout, NumberPoint, PointTimes } from '../../counters/points';
import { SeriesPool, type PooledHead, type Series, type SeriesKind } from '../../counters/series';
import type { Attributes, Resource } from '../../trace/span';
import { inTimeRange, TIME_RANGE } from '../../trace/time-range';
import {
  attributesOf,
  intOf,
  listOf,
  MAX_PARTS,
  momentOf,
  tooManyParts,
  type Loose,
  type ValueLimits
} from './values';

/** What is kept of the attributes of a point: they name its series. */
export const POINT_LIMITS: ValueLimits = { attributes: 64, valueLength: 512, depth: 4 };

/** OTLP `AggregationTemporality`. */
const DELTA = 1;
const CUMULATIVE = 2;
/** OTLP `DataPointFlags`: no value was recorded, the series has a gap here. */
const NO_VALUE = 1;

/** Why points are turned away. */
const REASONS = {
  time: `its time is outside ${TIME_RANGE}`,
  value: 'its value is not a finite number of a magnitude up to 10^30',
  temporality: 'its temporality is not told',
  buckets: `its buckets do not fit its bounds or its count, or are more than ${MAX_BUCKETS}`,
  kind: 'its metric is of a kind that OTLP does not name'
} as const;

/** A point and the series it is of. */
export type OfSeries<Point> = Point & { series: Series };

/** The points of a message. */
export interface MetricBatch {
  numbers: OfSeries<NumberPoint>[];
  histograms: OfSeries<HistogramPoint>[];
  /** Points left out, by reason. */
  rejected: { reason: string; count: number }[];
}

/** Series repeat from batch to batch: the pool outlives one message. */
const pool = new SeriesPool();

/** What OTLP states of a metric beside its points. */
export interface MetricFacts {
  name: string;
  unit: string;
  temporality: number;
  isMonotonic: boolean;
}

/** Takes points in, from either encoding, and refuses those that cannot be. */
export class PointTaker {
  readonly numbers: OfSeries<NumberPoint>[] = [];
  readonly histograms: OfSeries<HistogramPoint>[] = [];
  readonly #rejected = new Map<string, number>();
  #parts = 0;

  get batch(): MetricBatch {
    const rejected = [...this.#rejected].map(([reason, count]) => ({ reason, count }));
    return { numbers: this.numbers, histograms: this.histograms, rejected };
  }

  /** @throws EvidenceError where a message has more parts than are read. */
  countPart(): void {
    if (++this.#parts > MAX_PARTS) throw tooManyParts();
  }

  /** @param from names the sender: equal texts, equal senders; null where the temporality that the kind needs is not told */
  head(from: string, resource: () => Resource, kind: SeriesKind, facts: MetricFacts): PooledHead | null {
    const { name, unit, temporality, isMonotonic } = facts;
    const isTold = temporality === DELTA || temporality === CUMULATIVE;
    // A sum that may fall says where it stands, whatever it does not say of its temporality.
    const standsForItself = kind === 'gauge' || (kind === 'sum' && !isMonotonic);
    if (!isTold && !standsForItself) return null;
    const head = { name, unit, kind, isDelta: temporality === DELTA && kind !== 'gauge', isMonotonic };
    return pool.head(`${from}\n${JSON.stringify(head)}`, () => ({ ...head, resource: resource() }));
  }

  reject(reason: keyof typeof REASONS, count = 1): void {
    if (count > 0) this.#rejected.set(REASONS[reason], (this.#rejected.get(REASONS[reason]) ?? 0) + count);
  }

  /** @param series made only where the point is taken */
  number(series: () => Series, times: PointTimes | null, value: number | null, flags: number): void {
    if ((flags & NO_VALUE) !== 0) return;
    if (!times) return this.reject('time');
    if (value === null || !isValue(value)) return this.reject('value');
    this.numbers.push({ series: series(), ...times, value });
  }

  /** A point of explicit bounds, as decoded protobuf or JSON. */
  histogram(series: () => Series, raw: Loose): void {
    this.#histogram(series, raw, () => {
      const bounds = numbersOf(raw.explicitBounds);
      const counts = countsOf(raw.bucketCounts);
      // Without buckets only count and sum are told.
      const fits = counts.length === bounds.length + 1 || (counts.length === 0 && bounds.length === 0);
      const ascend = bounds.every((bound, i) => Number.isFinite(bound) && (i === 0 || bound > bounds[i - 1]));
      return fits && ascend
        ? { layout: { kind: 'explicit', bounds }, positive: { low: 0, counts }, negative: NONE, zero: 0 }
        : null;
    });
  }

  exponential(series: () => Series, raw: Loose): void {
    this.#histogram(series, raw, () => {
      const scale = intOf(raw.scale);
      const zeroThreshold = doubleOf(raw.zeroThreshold) || 0;
      if (!Number.isInteger(scale) || Math.abs(scale) > MAX_SCALE || !(zeroThreshold >= 0)) return null;
      const side = (of: unknown): Buckets => {
        const { offset, bucketCounts } = (of ?? {}) as Loose;
        return { low: intOf(offset), counts: countsOf(bucketCounts) };
      };
      const layout: Layout = { kind: 'exponential', scale, zeroThreshold };
      return {
        layout,
        positive: side(raw.positive),
        negative: side(raw.negative),
        zero: intOf(raw.zeroCount)
      };
    });
  }

  #histogram(
    series: () => Series,
    raw: Loose,
    read: () => Pick<HistogramPoint, 'layout' | 'positive' | 'negative' | 'zero'> | null
  ): void {
    if ((intOf(raw.flags) & NO_VALUE) !== 0) return;
    const times = timesOf(raw);
    if (!times) return this.reject('time');
    const count = intOf(raw.count);
    if (!isCount(count)) return this.reject('value');
    const told = read();
    if (!told || !isConsistent(told, count)) return this.reject('buckets');
    const [sum, min, max] = ['sum', 'min', 'max'].map((name) =>
      Object.hasOwn(raw, name) ? valueOf(raw[name]) : NaN
    );
    this.histograms.push({ series: series(), ...times, count, sum, min, max, ...told });
  }

  /** A summary is told as what it consists of: a count, a sum, and a gauge for each quantile. */
  summary(from: string, resource: () => Resource, { name, unit }: MetricFacts, raw: Loose): void {
    if ((intOf(raw.flags) & NO_VALUE) !== 0) return;
    const times = timesOf(raw);
    const attributes = attributesOf(raw.attributes, POINT_LIMITS, () => undefined);
    const add = (kind: SeriesKind, of: string, unitOf: string, more: Attributes, value: number): void => {
      const facts = { name: of, unit: unitOf, temporality: CUMULATIVE, isMonotonic: kind === 'sum' };
      const named = new Map([...attributes, ...more]);
      const head = this.head(from, resource, kind, facts)!;
      this.number(() => head.of(JSON.stringify([...named]), () => named), times, value, 0);
    };
    add('sum', `${name}.count`, '{count}', new Map(), intOf(raw.count));
    add('sum', `${name}.sum`, unit, new Map(), doubleOf(raw.sum));
    for (const { quantile, value } of listOf(raw.quantileValues)) {
      this.countPart();
      const told = doubleOf(value);
      // NaN stands for a quantile of no values (OTLP, `SummaryDataPoint`).
      if (!Number.isNaN(told))
        add('gauge', name, unit, new Map([['quantile', doubleOf(quantile) || 0]]), told);
    }
  }
}

/** Scales that the specification's mapping functions are defined for (OpenTelemetry metrics data model, −10 to 20). */
const MAX_SCALE = 20;
const NONE: Buckets = { low: 0, counts: new Float64Array() };
/** Counts of which sums of several still are exact. */
const MAX_COUNT = 2 ** 48;
/** Where doubles end: their exponents reach from −1074 to 1023, each parted into 2^scale buckets. */
const farthestBucket = (layout: Layout): number =>
  layout.kind === 'explicit' ? 0 : Math.ceil(1075 * 2 ** layout.scale);
/** Greater ones are damage: sums of them would not be numbers any more. */
const MAX_MAGNITUDE = 1e30;
const isValue = (value: number): boolean => Math.abs(value) <= MAX_MAGNITUDE;
const isCount = (count: number): boolean => Number.isInteger(count) && count >= 0 && count <= MAX_COUNT;

/** Whether the buckets hold what the count tells, and lie where values of doubles can. */
function isConsistent(
  { layout, positive, negative, zero }: Pick<HistogramPoint, 'layout' | 'positive' | 'negative' | 'zero'>,
  count: number
): boolean {
  const farthest = farthestBucket(layout);
  let held = zero;
  for (const { low, counts } of [positive, negative]) {
    if (counts.length > MAX_BUCKETS || !counts.every(isCount)) return false;
    if (!Number.isInteger(low) || Math.abs(low) > farthest) return false;
    for (const of of counts) held += of;
  }
  return isCount(zero) && (held === count || (held === 0 && positive.counts.length === 0));
}

export function timesOf(raw: Loose): PointTimes | null {
  const at = momentOf(raw.timeUnixNano);
  if (!at || !inTimeRange(at.us)) return null;
  const start = momentOf(raw.startTimeUnixNano);
  return { atMs: wholeMs(at.us), startMs: start && start.us <= at.us ? wholeMs(start.us) : 0 };
}

/** Times are kept to the millisecond. */
export const wholeMs = (us: number): number => Math.floor(us / 1000);

/** NaN where it is not told, or is no number. */
function doubleOf(value: unknown): number {
  if (typeof value === 'number') return value;
  return typeof value === 'string' && value !== '' ? Number(value) : NaN;
}

/** NaN too where it is no value that can be. */
function valueOf(told: unknown): number {
  const value = doubleOf(told);
  return isValue(value) ? value : NaN;
}

const numbersOf = (list: unknown): number[] => (Array.isArray(list) ? list.map(doubleOf) : []);
const countsOf = (list: unknown): Float64Array =>
  Array.isArray(list) ? Float64Array.from(list, intOf) : new Float64Array();
