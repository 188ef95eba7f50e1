import type { Attributes, Resource } from '../trace/span';

/** The kinds of OpenTelemetry's metric data model that are kept as they are. A summary becomes gauges and sums. */
export const SERIES_KINDS = ['gauge', 'sum', 'histogram', 'exponential'] as const;
export type SeriesKind = (typeof SERIES_KINDS)[number];

/** Whether points of a kind are distributions, not numbers. */
export const isHistogram = (kind: SeriesKind): boolean => kind === 'histogram' || kind === 'exponential';

/** What all points of one metric stream have in common (OpenTelemetry metrics data model, "Timeseries model"). */
export interface MetricHead {
  resource: Resource;
  name: string;
  unit: string;
  kind: SeriesKind;
  /** Each point tells what came since the one before (delta), or since its start (cumulative). Nothing for a gauge. */
  isDelta: boolean;
  /** A sum that only grows: its rate is what is looked at. */
  isMonotonic: boolean;
}

/** A series: one stream of points. The object is the same in batch after batch as long as the pool knows it. */
export interface Series extends MetricHead {
  /** Ordered by name. */
  attributes: Attributes;
}

/** Series remembered beyond which the pool begins anew. */
const MAX_POOLED = 60_000;

/**
 * Series by what names them, as it came: to read the attributes of every point anew would take longer than all the rest. The pool
 * outlives a batch and is bounded.
 */
export class SeriesPool {
  readonly #heads = new Map<string, PooledHead>();
  #size = 0;

  /** @param key names the head: equal texts, equal heads */
  head(key: string, make: () => MetricHead): PooledHead {
    let head = this.#heads.get(key);
    if (!head) {
      if (this.#size >= MAX_POOLED) {
        this.#heads.clear();
        this.#size = 0;
      }
      head = new PooledHead(make(), () => this.#size++);
      this.#heads.set(key, head);
    }
    return head;
  }
}

/** The series of one head. */
export class PooledHead {
  readonly #head: MetricHead;
  readonly #grow: () => void;
  readonly #series = new Map<string, Series>();

  constructor(head: MetricHead, grow: () => void) {
    this.#head = head;
    this.#grow = grow;
    grow();
  }

  /** @param key the attributes as they came: another order may give a second object, of the same series */
  of(key: string, attributes: () => Attributes): Series {
    let series = this.#series.get(key);
    if (!series) {
      series = { ...this.#head, attributes: inOrder(attributes()) };
      this.#series.set(key, series);
      this.#grow();
    }
    return series;
  }
}

const inOrder = (attributes: Attributes): Attributes =>
  new Map([...attributes].sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0)));

/** A text that is the same for the same series, whichever object stands for it. @param source number of the sender */
export const seriesKey = (
  source: number,
  { name, unit, kind, isDelta, isMonotonic, attributes }: Series
): string =>
  JSON.stringify([source, name, unit, kind, isDelta ? 1 : 0, isMonotonic ? 1 : 0, [...attributes]]);
