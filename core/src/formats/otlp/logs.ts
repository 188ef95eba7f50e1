import type { Attributes, AttributeValue } from '../../trace/span';
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

/** A log record that names the span it was written in. */
export interface LogRecord {
  traceId: string;
  /** Empty where the record names only its trace. */
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
  /** Records left out because they name no trace, or no time. */
  withoutTrace: number;
}

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
  let withoutTrace = 0;
  for (const resource of listOf(document.resourceLogs))
    for (const scope of listOf(resource.scopeLogs))
      for (const raw of listOf(scope.logRecords)) {
        const traceId = idOf(raw.traceId, 16);
        const at = momentOf(raw.timeUnixNano) ?? momentOf(raw.observedTimeUnixNano);
        if (!traceId || !at) {
          withoutTrace++;
          continue;
        }
        const body = attributesOf([{ key: 'body', value: raw.body }], limits, () => undefined).get('body');
        records.push({
          traceId,
          spanId: idOf(raw.spanId, 8),
          atUs: at.us,
          atNs: at.ns,
          severity: Math.min(24, Math.max(0, intOf(raw.severityNumber))),
          body: textOf(body ?? null).slice(0, MAX_BODY),
          attributes: attributesOf(raw.attributes, limits, () => undefined)
        });
      }
  return { records, withoutTrace };
}

const textOf = (value: AttributeValue): string =>
  typeof value === 'string' ? value : value === null ? '' : JSON.stringify(value);
