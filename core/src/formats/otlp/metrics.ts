import { resourceFrom } from '../../trace/resource';
import type { Resource } from '../../trace/span';
import { inTimeRange } from '../../trace/time-range';
import { EvidenceError } from '../evidence-error';
import { ExportMetricsServiceRequest } from './schema';
import {
  attributesOf,
  DEFAULT_VALUE_LIMITS,
  listOf,
  momentOf,
  numberFrom,
  otlpDocument,
  stringOf,
  type Loose
} from './values';

/**
 * Memory a process uses, by the names OpenTelemetry's semantic conventions give it: of the whole process, or of its runtime's heap, which
 * comes in parts (spaces, pools) that are summed.
 */
export const MEMORY_COUNTERS = [
  'process.memory.usage',
  'v8js.memory.heap.used',
  'jvm.memory.used',
  'process.runtime.nodejs.memory.heap.used',
  'process.runtime.jvm.memory.usage'
] as const;

/** Largest magnitude of a value, bytes: 2^63. More is damage, and would not add up. */
const MAX_VALUE = 2 ** 63;

/** Kinds of metrics that are not read. */
const UNREAD = ['histogram', 'exponentialHistogram', 'summary'] as const;

/** A counter of one process at one moment. Bytes. */
export interface CounterValue {
  resource: Resource;
  name: string;
  atUs: number;
  value: number;
}

export interface MetricBatch {
  values: CounterValue[];
  /** Data points of other counters, and of kinds that are not read: they are not kept. */
  others: number;
  /** Data points that cannot be: their time or value is out of range. */
  outOfRange: number;
}

/** Decodes an OTLP `ExportMetricsServiceRequest` in protobuf. @throws EvidenceError `otlp-damaged`. */
export function decodeMetricsProtobuf(bytes: Uint8Array): MetricBatch {
  try {
    return readMetrics(ExportMetricsServiceRequest.decode(bytes) as unknown as Loose);
  } catch (cause) {
    if (cause instanceof EvidenceError) throw cause;
    throw new EvidenceError(
      'otlp-damaged',
      `Expected an OTLP ExportMetricsServiceRequest in protobuf, but the bytes do not decode: ${(cause as Error).message}.`
    );
  }
}

/** Decodes OTLP metrics in JSON. @throws EvidenceError `json-damaged`, `not-otlp`. */
export function decodeMetricsJson(text: string): MetricBatch {
  return readMetrics(otlpDocument(text, 'resourceMetrics'));
}

function readMetrics(document: Loose): MetricBatch {
  const sums = new Map<string, CounterValue>();
  let others = 0;
  let outOfRange = 0;
  for (const group of listOf(document.resourceMetrics)) {
    const raw = (group.resource as Loose | undefined)?.attributes;
    const resource = resourceFrom(attributesOf(raw, DEFAULT_VALUE_LIMITS, () => undefined));
    for (const scope of listOf(group.scopeMetrics))
      for (const metric of listOf(scope.metrics)) {
        const name = stringOf(metric.name);
        const points = listOf(((metric.gauge ?? metric.sum) as Loose | undefined)?.dataPoints);
        const unread = UNREAD.reduce(
          (sum, kind) => sum + listOf((metric[kind] as Loose | undefined)?.dataPoints).length,
          0
        );
        others += unread;
        if (!(MEMORY_COUNTERS as readonly string[]).includes(name)) {
          others += points.length;
          continue;
        }
        for (const point of points) {
          const at = momentOf(point.timeUnixNano);
          const value = numberOfPoint(point);
          if (!at || value === null) {
            others++;
            continue;
          }
          if (!inTimeRange(at.us) || Math.abs(value) > MAX_VALUE) {
            outOfRange++;
            continue;
          }
          const key = `${resource.key} ${name} ${at.us}`;
          const known = sums.get(key);
          if (known) known.value += value;
          else sums.set(key, { resource, name, atUs: at.us, value });
        }
      }
  }
  return { values: [...sums.values()], others, outOfRange };
}

/** JSON writes 64-bit numbers as strings (OTLP/JSON); protobuf gives them in halves, and 0 for what was not sent. */
function numberOfPoint(point: Loose): number | null {
  for (const name of ['asDouble', 'asInt']) {
    const value = Object.hasOwn(point, name) ? point[name] : null;
    if (value === null || value === undefined) continue;
    const number =
      typeof value === 'object' ? numberFrom(value as { low: number; high: number }) : Number(value);
    if (Number.isFinite(number)) return number;
  }
  return null;
}
