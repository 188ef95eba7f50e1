import { cutText } from '../../text/well-formed';
import { resourceFrom } from '../../trace/resource';
import type { Attributes, AttributeValue, Resource } from '../../trace/span';
import { inTimeRange, TIME_RANGE } from '../../trace/time-range';
import { EvidenceError } from '../evidence-error';
import { ExportLogsServiceRequest } from './schema';
import {
  attributesOf,
  DEFAULT_VALUE_LIMITS,
  idOf,
  intOf,
  listOf,
  momentOf,
  otlpDocument,
  type Loose,
  type ValueLimits
} from './values';

/** A log record, of a span or only of its process. */
export interface LogRecord {
  resource: Resource;
  /** Empty where the record names no trace. */
  traceId: string;
  /** Empty where the record names no span. */
  spanId: string;
  /** Whole epoch microseconds, and the nanoseconds (0 to 999) beyond them. */
  atUs: number;
  atNs: number;
  /** OTLP `SeverityNumber`, 0 to 24. */
  severity: number;
  body: string;
  attributes: Attributes;
}

export interface LogBatch {
  records: LogRecord[];
  /** Records left out, by reason. */
  rejected: { reason: string; count: number }[];
}

const WITHOUT_TIME = 'log record names no time';
const OUT_OF_RANGE = `log record’s time is outside ${TIME_RANGE}`;
/** Longest body kept, characters. */
const MAX_BODY = 4096;

/** Decodes an OTLP `ExportLogsServiceRequest` in protobuf. @throws EvidenceError `otlp-damaged`. */
export function decodeLogsProtobuf(bytes: Uint8Array): LogBatch {
  try {
    return readLogs(ExportLogsServiceRequest.decode(bytes) as unknown as Loose);
  } catch (cause) {
    if (cause instanceof EvidenceError) throw cause;
    throw new EvidenceError(
      'otlp-damaged',
      `Expected an OTLP ExportLogsServiceRequest in protobuf, but the bytes do not decode: ${(cause as Error).message}.`
    );
  }
}

/** Decodes OTLP logs in JSON. @throws EvidenceError `json-damaged`, `not-otlp`. */
export function decodeLogsJson(text: string): LogBatch {
  return readLogs(otlpDocument(text, 'resourceLogs'));
}

function readLogs(document: Loose, limits: ValueLimits = DEFAULT_VALUE_LIMITS): LogBatch {
  const records: LogRecord[] = [];
  const rejected = new Map<string, number>();
  for (const group of listOf(document.resourceLogs)) {
    const told = (group.resource as Loose | undefined)?.attributes;
    const resource = resourceFrom(attributesOf(told, limits, () => undefined));
    for (const scope of listOf(group.scopeLogs))
      for (const raw of listOf(scope.logRecords)) {
        const at = momentOf(raw.timeUnixNano) ?? momentOf(raw.observedTimeUnixNano);
        const reason = !at ? WITHOUT_TIME : inTimeRange(at.us) ? '' : OUT_OF_RANGE;
        if (!at || reason) {
          rejected.set(reason, (rejected.get(reason) ?? 0) + 1);
          continue;
        }
        const traceId = idOf(raw.traceId, 16);
        const body = attributesOf([{ key: 'body', value: raw.body }], limits, () => undefined).get('body');
        records.push({
          resource,
          traceId,
          // A span is found by its trace alone.
          spanId: traceId ? idOf(raw.spanId, 8) : '',
          atUs: at.us,
          atNs: at.ns,
          severity: Math.min(24, Math.max(0, intOf(raw.severityNumber))),
          body: cutText(textOf(body ?? null), MAX_BODY),
          attributes: attributesOf(raw.attributes, limits, () => undefined)
        });
      }
  }
  return { records, rejected: [...rejected].map(([reason, count]) => ({ reason, count })) };
}

const textOf = (value: AttributeValue): string =>
  typeof value === 'string' ? value : value === null ? '' : JSON.stringify(plain(value));

/** A map as an object: its names stand before their values, as whoever masks or reads it expects. */
function plain(value: AttributeValue): unknown {
  if (!Array.isArray(value)) return value;
  const isPair = (item: AttributeValue): item is [string, AttributeValue] =>
    Array.isArray(item) && item.length === 2 && typeof item[0] === 'string';
  return value.length > 0 && value.every(isPair)
    ? Object.fromEntries(value.map(([name, inner]) => [name, plain(inner)]))
    : value.map(plain);
}
