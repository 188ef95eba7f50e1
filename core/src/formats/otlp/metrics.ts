import type { PooledHead, SeriesKind } from '../../counters/series';
import { resourceFrom } from '../../trace/resource';
import type { Resource } from '../../trace/span';
import { EvidenceError } from '../evidence-error';
import { POINT_LIMITS, PointTaker, timesOf, type MetricBatch, type MetricFacts } from './metric-points';
import {
  attributesOf,
  DEFAULT_VALUE_LIMITS,
  intOf,
  listOf,
  otlpDocument,
  stringOf,
  type Loose
} from './values';
import { WireMetrics } from './wire-metrics';

/** Decodes an OTLP `ExportMetricsServiceRequest` in protobuf. @throws EvidenceError `otlp-damaged`, `too-many-parts`. */
export function decodeMetricsProtobuf(bytes: Uint8Array): MetricBatch {
  const taker = new PointTaker();
  try {
    new WireMetrics(bytes, taker).read();
  } catch (cause) {
    if (cause instanceof EvidenceError) throw cause;
    throw new EvidenceError(
      'otlp-damaged',
      `Expected an OTLP ExportMetricsServiceRequest in protobuf, but the bytes do not decode: ${(cause as Error).message}.`
    );
  }
  return taker.batch;
}

/** Decodes OTLP metrics in JSON. @throws EvidenceError `json-damaged`, `not-otlp`, `too-many-parts`. */
export function decodeMetricsJson(text: string): MetricBatch {
  const taker = new PointTaker();
  for (const group of listOf(otlpDocument(text, 'resourceMetrics').resourceMetrics)) {
    const told = (group.resource as Loose | undefined)?.attributes;
    let known: Resource | undefined;
    const resource = (): Resource =>
      (known ??= resourceFrom(attributesOf(told, DEFAULT_VALUE_LIMITS, () => undefined)));
    const from = JSON.stringify(told ?? []);
    for (const scope of listOf(group.scopeMetrics))
      for (const metric of listOf(scope.metrics)) readMetric(metric, from, resource, taker);
  }
  return taker.batch;
}

/** The kinds of a metric by their names in JSON. */
const KINDS: Readonly<Record<string, SeriesKind | 'summary'>> = {
  gauge: 'gauge',
  sum: 'sum',
  histogram: 'histogram',
  exponentialHistogram: 'exponential',
  summary: 'summary'
};

function readMetric(metric: Loose, from: string, resource: () => Resource, taker: PointTaker): void {
  for (const [field, kind] of Object.entries(KINDS)) {
    const data = metric[field] as Loose | undefined;
    if (typeof data !== 'object' || data === null) continue;
    const facts: MetricFacts = {
      name: stringOf(metric.name),
      unit: stringOf(metric.unit),
      temporality: intOf(data.aggregationTemporality),
      isMonotonic: data.isMonotonic === true
    };
    const points = listOf(data.dataPoints);
    points.forEach(() => taker.countPart());
    if (kind === 'summary') {
      for (const point of points) taker.summary(from, resource, facts, point);
      continue;
    }
    const head = taker.head(from, resource, kind, facts);
    if (!head) taker.reject('temporality', points.length);
    else for (const point of points) TAKE[kind](taker, head, point);
  }
}

type Take = (taker: PointTaker, head: PooledHead, point: Loose) => void;

const seriesOf = (head: PooledHead, { attributes }: Loose): ReturnType<PooledHead['of']> =>
  head.of(JSON.stringify(attributes ?? []), () => attributesOf(attributes, POINT_LIMITS, () => undefined));

const number: Take = (taker, head, point) =>
  taker.number(() => seriesOf(head, point), timesOf(point), numberOfPoint(point), intOf(point.flags));

const TAKE: Record<SeriesKind, Take> = {
  gauge: number,
  sum: number,
  histogram: (taker, head, point) => taker.histogram(() => seriesOf(head, point), point),
  exponential: (taker, head, point) => taker.exponential(() => seriesOf(head, point), point)
};

/** JSON writes 64-bit numbers as strings (OTLP/JSON), and what is no finite number too. Null where none is told. */
function numberOfPoint(point: Loose): number | null {
  for (const name of ['asDouble', 'asInt']) {
    const value = point[name];
    if (typeof value === 'number') return value;
    if (typeof value === 'string' && value !== '') return Number(value);
  }
  return null;
}
