import { resourceFrom } from '../../trace/resource';
import type { RawSpan } from '../../calls/mask';
import type { Resource, SpanEvent } from '../../trace/span';
import { EvidenceError, Warnings, type Warning } from '../evidence-error';
import { ExportTraceServiceRequest } from './schema';
import {
  attributesOf,
  DEFAULT_VALUE_LIMITS,
  idOf,
  intOf,
  listOf,
  momentOf,
  stringOf,
  type Loose,
  type Moment,
  type ValueLimits
} from './values';

export interface TraceBatch {
  spans: RawSpan[];
  rejected: { reason: string; count: number }[];
  warnings: Warning[];
}

/** Most events kept of one span (OpenTelemetry SDK's own default limit). */
const MAX_EVENTS = 128;

/**
 * Decodes an OTLP `ExportTraceServiceRequest` in protobuf.
 * @throws EvidenceError `not-otlp`, `otlp-damaged`.
 */
export function decodeTracesProtobuf(
  bytes: Uint8Array,
  limits: ValueLimits = DEFAULT_VALUE_LIMITS
): TraceBatch {
  let message: Loose;
  try {
    message = ExportTraceServiceRequest.decode(bytes) as unknown as Loose;
  } catch (cause) {
    const where = /index out of range: (\d+)/.exec((cause as Error).message)?.[1];
    throw new EvidenceError(
      'otlp-damaged',
      `Expected an OTLP ExportTraceServiceRequest in protobuf, but the bytes do not decode: ${(cause as Error).message}. Check the content type and that the body was sent whole.`,
      where === undefined ? undefined : Number(where)
    );
  }
  if (bytes.length > 0 && listOf(message.resourceSpans).length === 0) {
    throw new EvidenceError(
      'not-otlp',
      'Expected an OTLP ExportTraceServiceRequest in protobuf, but found no resourceSpans (field 1) in it.',
      0
    );
  }
  return readBatch([message], limits);
}

/**
 * Decodes OTLP traces in JSON: one object, or one object a line.
 * @throws EvidenceError `json-damaged`, `not-otlp`.
 */
export function decodeTracesJson(text: string, limits: ValueLimits = DEFAULT_VALUE_LIMITS): TraceBatch {
  return readBatch(parseDocuments(text), limits);
}

function parseDocuments(text: string): Loose[] {
  const whole = tryParse(text);
  const parsed = whole.ok ? [whole.value] : parseLines(text, whole.message);
  return parsed.map((document, i) => {
    if (
      typeof document !== 'object' ||
      document === null ||
      !Array.isArray((document as Loose).resourceSpans)
    ) {
      throw new EvidenceError(
        'not-otlp',
        `Expected an OTLP object with a list resourceSpans, but document ${i + 1} has none.`
      );
    }
    return document as Loose;
  });
}

function parseLines(text: string, wholeMessage: string): unknown[] {
  const lines = text.split('\n');
  const first = lines.findIndex((line) => line.trim() !== '');
  if (first < 0 || !tryParse(lines[first]).ok)
    throw new EvidenceError(
      'json-damaged',
      `The JSON does not parse: ${wholeMessage}.`,
      offsetIn(wholeMessage)
    );
  const documents: unknown[] = [];
  let offset = 0;
  for (const line of lines) {
    if (line.trim() !== '') {
      const parsed = tryParse(line);
      if (!parsed.ok)
        throw new EvidenceError(
          'json-damaged',
          `Line ${documents.length + 1} is not JSON: ${parsed.message}.`,
          offset
        );
      documents.push(parsed.value);
    }
    offset += line.length + 1;
  }
  return documents;
}

function tryParse(text: string): { ok: true; value: unknown } | { ok: false; message: string } {
  try {
    return { ok: true, value: JSON.parse(text) };
  } catch (cause) {
    return { ok: false, message: (cause as Error).message };
  }
}

function offsetIn(message: string): number | undefined {
  const at = /position (\d+)/.exec(message)?.[1];
  return at === undefined ? undefined : Number(at);
}

function readBatch(documents: Loose[], limits: ValueLimits): TraceBatch {
  const warnings = new Warnings();
  const rejected = new Map<string, number>();
  const spans: RawSpan[] = [];
  const cut = (): void =>
    warnings.add(
      'attribute-cut',
      'An attribute went beyond the limits on count, length or depth and was cut.'
    );
  for (const document of documents) {
    for (const group of listOf(document.resourceSpans)) {
      const resource = resourceFrom(
        attributesOf((group.resource as Loose | undefined)?.attributes, limits, cut)
      );
      for (const scope of [...listOf(group.scopeSpans), ...listOf(group.instrumentationLibrarySpans)]) {
        for (const raw of listOf(scope.spans)) {
          const span = readSpan(raw, resource, limits, warnings, cut);
          if (typeof span === 'string') rejected.set(span, (rejected.get(span) ?? 0) + 1);
          else spans.push(span);
        }
      }
    }
  }
  return {
    spans,
    rejected: [...rejected].map(([reason, count]) => ({ reason, count })),
    warnings: warnings.list()
  };
}

/** @returns the span, or the reason it is rejected. */
function readSpan(
  raw: Loose,
  resource: Resource,
  limits: ValueLimits,
  warnings: Warnings,
  cut: () => void
): RawSpan | string {
  const traceId = idOf(raw.traceId, 16);
  if (!traceId) return 'trace id is not 16 non-zero bytes';
  const spanId = idOf(raw.spanId, 8);
  if (!spanId) return 'span id is not 8 non-zero bytes';
  const begin = momentOf(raw.startTimeUnixNano);
  if (!begin) return 'start time is missing or no time';
  const finish = momentOf(raw.endTimeUnixNano);
  let durationNs = finish ? distanceNs(begin, finish) : 0;
  if (!finish) warnings.add('no-end', 'A span has no end time; it was given no length.');
  else if (durationNs < 0) {
    warnings.add('ends-before-start', 'A span ends before it starts; it was given no length.');
    durationNs = 0;
  }
  const status = (raw.status ?? {}) as Loose;
  return {
    traceId,
    spanId,
    parentId: idOf(raw.parentSpanId, 8),
    name: stringOf(raw.name).slice(0, limits.valueLength),
    kind: kindOf(raw.kind),
    startUs: begin.us,
    startNs: begin.ns,
    durationNs,
    status: statusOf(status.code),
    statusMessage: stringOf(status.message).slice(0, limits.valueLength),
    attributes: attributesOf(raw.attributes, limits, cut),
    events: readEvents(raw.events, begin, limits, cut),
    resource
  };
}

function readEvents(list: unknown, begin: Moment, limits: ValueLimits, cut: () => void): SpanEvent[] {
  if (!Array.isArray(list) || list.length === 0) return [];
  if (list.length > MAX_EVENTS) cut();
  const events: SpanEvent[] = [];
  for (const raw of listOf(list).slice(0, MAX_EVENTS)) {
    const at = momentOf(raw.timeUnixNano);
    events.push({
      name: stringOf(raw.name),
      offsetNs: at ? distanceNs(begin, at) : 0,
      attributes: attributesOf(raw.attributes, limits, cut)
    });
  }
  return events;
}

const distanceNs = (from: Moment, to: Moment): number => (to.us - from.us) * 1000 + (to.ns - from.ns);

const KIND_NAMES = ['UNSPECIFIED', 'INTERNAL', 'SERVER', 'CLIENT', 'PRODUCER', 'CONSUMER'];
/** The standard asks for numbers; the names some senders write are understood too. */
function kindOf(value: unknown): number {
  const kind =
    typeof value === 'string' && value.startsWith('SPAN_KIND_')
      ? KIND_NAMES.indexOf(value.slice(10))
      : intOf(value);
  return kind >= 0 && kind <= 5 ? kind : 0;
}

function statusOf(value: unknown): number {
  if (value === 'STATUS_CODE_ERROR') return 2;
  if (value === 'STATUS_CODE_OK') return 1;
  const code = intOf(value);
  return code === 1 || code === 2 ? code : 0;
}
