import protobuf, { type Reader, type Type } from 'protobufjs/light.js';
import type { PooledHead, SeriesKind } from '../../counters/series';
import { resourceFrom } from '../../trace/resource';
import type { Attributes, Resource } from '../../trace/span';
import { inTimeRange } from '../../trace/time-range';
import { POINT_LIMITS, wholeMs, type MetricFacts, type PointTaker } from './metric-points';
import {
  ExponentialHistogramDataPoint,
  HistogramDataPoint,
  KeyValue,
  ResourceMessage,
  SummaryDataPoint
} from './schema';
import { TextPool } from './text-pool';
import { BYTES, endOf, FIXED64, tag, VARINT } from '../wire';
import { attributesOf, DEFAULT_VALUE_LIMITS, momentFrom, type Loose } from './values';

/**
 * Reads points straight from the bytes of an OTLP message: field numbers and wire types of opentelemetry-proto v1 (metrics.proto). The
 * attributes of number points are read once for each series: afterwards their bytes alone name it.
 */

const GROUPS = tag(1, BYTES);
const GROUP_RESOURCE = tag(1, BYTES);
const GROUP_SCOPES = tag(2, BYTES);
const SCOPE_METRICS = tag(2, BYTES);
const METRIC_NAME = tag(1, BYTES);
const METRIC_UNIT = tag(3, BYTES);
/** The kinds of `Metric.data`. */
const KINDS = new Map<number, SeriesKind | 'summary'>([
  [tag(5, BYTES), 'gauge'],
  [tag(7, BYTES), 'sum'],
  [tag(9, BYTES), 'histogram'],
  [tag(10, BYTES), 'exponential'],
  [tag(11, BYTES), 'summary']
]);
const DATA_POINT = tag(1, BYTES);
const DATA_TEMPORALITY = tag(2, VARINT);
const DATA_IS_MONOTONIC = tag(3, VARINT);

/** `NumberDataPoint`. */
const POINT_START = tag(2, FIXED64);
const POINT_TIME = tag(3, FIXED64);
const POINT_DOUBLE = tag(4, FIXED64);
const POINT_INT = tag(6, FIXED64);
const POINT_ATTRIBUTE = tag(7, BYTES);
const POINT_FLAGS = tag(8, VARINT);

const texts = new TextPool();

/** Where a part of the bytes lies. */
interface Range {
  from: number;
  to: number;
}

/** Who sent the points of a group: by its bytes, and read from them when asked. */
interface Sender {
  key: string;
  resource: () => Resource;
}

export class WireMetrics {
  readonly #reader: Reader;
  readonly #bytes: Uint8Array;
  readonly #taker: PointTaker;

  constructor(bytes: Uint8Array, taker: PointTaker) {
    this.#bytes = new Uint8Array(bytes.buffer as ArrayBuffer, bytes.byteOffset, bytes.byteLength);
    this.#reader = protobuf.Reader.create(this.#bytes);
    this.#taker = taker;
  }

  /** Reads an `ExportMetricsServiceRequest`. @throws RangeError or Error where the bytes are damaged. */
  read(): void {
    for (const group of this.#partsOf({ from: 0, to: this.#bytes.length }, GROUPS)) {
      const [resource] = this.#partsOf(group, GROUP_RESOURCE);
      const sender = this.#sender(resource ?? { from: 0, to: 0 });
      for (const scope of this.#partsOf(group, GROUP_SCOPES))
        for (const metric of this.#partsOf(scope, SCOPE_METRICS)) this.#metric(metric, sender);
    }
  }

  #sender(range: Range): Sender {
    let resource: Resource | undefined;
    const read = (): Resource => {
      const { attributes } = ResourceMessage.decode(this.#slice(range)) as unknown as Loose;
      return resourceFrom(attributesOf(attributes, DEFAULT_VALUE_LIMITS, () => undefined));
    };
    return { key: this.#textOf(range), resource: () => (resource ??= read()) };
  }

  #metric({ from, to }: Range, sender: Sender): void {
    const reader = this.#reader;
    const facts: MetricFacts = { name: '', unit: '', temporality: 0, isMonotonic: false };
    const data: { kind: SeriesKind | 'summary'; points: Range[] }[] = [];
    reader.pos = from;
    while (reader.pos < to) {
      const found = reader.uint32();
      const kind = KINDS.get(found);
      if (found === METRIC_NAME) facts.name = texts.read(reader);
      else if (found === METRIC_UNIT) facts.unit = texts.read(reader);
      else if (kind) data.push({ kind, points: this.#data(facts) });
      else reader.skipType(found & 7);
    }
    for (const { kind, points } of data) this.#take(kind, points, facts, sender);
  }

  /** The points of a metric; what else is told of it goes into the facts. */
  #data(facts: MetricFacts): Range[] {
    const reader = this.#reader;
    const end = endOf(this.#reader);
    const points: Range[] = [];
    while (reader.pos < end) {
      const found = reader.uint32();
      if (found === DATA_POINT) {
        this.#taker.countPart();
        const to = endOf(this.#reader);
        points.push({ from: reader.pos, to });
        reader.pos = to;
      } else if (found === DATA_TEMPORALITY) facts.temporality = reader.int32();
      else if (found === DATA_IS_MONOTONIC) facts.isMonotonic = reader.bool();
      else reader.skipType(found & 7);
    }
    return points;
  }

  #take(kind: SeriesKind | 'summary', points: readonly Range[], facts: MetricFacts, sender: Sender): void {
    const taker = this.#taker;
    if (kind === 'summary') {
      for (const point of points)
        taker.summary(sender.key, sender.resource, facts, this.#decode(SummaryDataPoint, point));
      return;
    }
    const head = taker.head(sender.key, sender.resource, kind, facts);
    if (!head) return taker.reject('temporality', points.length);
    for (const point of points)
      if (kind === 'histogram') {
        const raw = this.#decode(HistogramDataPoint, point);
        taker.histogram(() => seriesOf(head, raw.attributes), raw);
      } else if (kind === 'exponential') {
        const raw = this.#decode(ExponentialHistogramDataPoint, point);
        taker.exponential(() => seriesOf(head, raw.attributes), raw);
      } else this.#number(point, head);
  }

  #number({ from, to }: Range, head: PooledHead): void {
    const reader = this.#reader;
    let value: number | null = null;
    let atMs = 0;
    let startMs = 0;
    let flags = 0;
    let key = '';
    const attributes: Range[] = [];
    reader.pos = from;
    while (reader.pos < to) {
      const found = reader.uint32();
      if (found === POINT_TIME) atMs = this.#milliseconds();
      else if (found === POINT_START) startMs = this.#milliseconds();
      else if (found === POINT_DOUBLE) value = reader.double();
      else if (found === POINT_INT) {
        const low = reader.fixed32();
        value = reader.sfixed32() * 2 ** 32 + low;
      } else if (found === POINT_ATTRIBUTE) {
        const end = endOf(this.#reader);
        const range = { from: reader.pos, to: end };
        attributes.push(range);
        key += this.#textOf(range);
        reader.pos = end;
      } else if (found === POINT_FLAGS) flags = reader.uint32();
      else reader.skipType(found & 7);
    }
    const read = (): Attributes =>
      attributesOf(
        attributes.map((range) => KeyValue.decode(this.#slice(range))),
        POINT_LIMITS,
        () => undefined
      );
    const times = atMs > 0 ? { atMs, startMs: startMs <= atMs ? startMs : 0 } : null;
    this.#taker.number(() => head.of(key, read), times, value, flags);
  }

  /** 0 for no time. */
  #milliseconds(): number {
    const low = this.#reader.fixed32();
    const moment = momentFrom(low, this.#reader.fixed32());
    return moment && inTimeRange(moment.us) ? wholeMs(moment.us) : 0;
  }

  #decode(type: Type, range: Range): Loose {
    return type.decode(this.#slice(range)) as unknown as Loose;
  }

  #slice({ from, to }: Range): Uint8Array {
    return this.#bytes.subarray(from, to);
  }

  /** The bytes as a text of as many characters, to compare them by. */
  #textOf({ from, to }: Range): string {
    let text = '';
    for (let at = from; at < to; at += PIECE)
      text += String.fromCharCode.apply(
        null,
        this.#bytes.subarray(at, Math.min(to, at + PIECE)) as unknown as number[]
      );
    return text;
  }

  /** The parts of a message that are of one field. */
  #partsOf({ from, to }: Range, wanted: number): Range[] {
    const reader = this.#reader;
    const parts: Range[] = [];
    reader.pos = from;
    while (reader.pos < to) {
      const found = reader.uint32();
      if (found === wanted) {
        this.#taker.countPart();
        const end = endOf(this.#reader);
        parts.push({ from: reader.pos, to: end });
        reader.pos = end;
      } else reader.skipType(found & 7);
    }
    return parts;
  }
}

/** Characters made in one call: more would not fit on the stack. */
const PIECE = 4096;

const seriesOf = (head: PooledHead, list: unknown): ReturnType<PooledHead['of']> =>
  head.of(JSON.stringify(list), () => attributesOf(list, POINT_LIMITS, () => undefined));
