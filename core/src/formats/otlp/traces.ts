import { resourceFrom } from '../../trace/resource';
import type { RawSpan } from '../../calls/mask';
import { EvidenceError, Warnings, type Warning } from '../evidence-error';
import { spanFrom, type SpanFields } from './span-fields';
import {
  attributesOf,
  DEFAULT_VALUE_LIMITS,
  idOf,
  intOf,
  listOf,
  momentOf,
  refuseTooManyParts,
  stringOf,
  type Loose,
  type ValueLimits
} from './values';
import { WireSpans, type SpanGroup } from './wire-spans';

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
  return readBatch(limits, (cut) => {
    let groups: SpanGroup[];
    try {
      groups = new WireSpans(bytes, limits, MAX_EVENTS, cut).groups();
    } catch (cause) {
      if (cause instanceof EvidenceError) throw cause;
      const where = /index out of range: (\d+)/.exec((cause as Error).message)?.[1];
      throw new EvidenceError(
        'otlp-damaged',
        `Expected an OTLP ExportTraceServiceRequest in protobuf, but the bytes do not decode: ${(cause as Error).message}. Check the content type and that the body was sent whole.`,
        where === undefined ? undefined : Number(where)
      );
    }
    if (bytes.length > 0 && groups.length === 0) {
      throw new EvidenceError(
        'not-otlp',
        'Expected an OTLP ExportTraceServiceRequest in protobuf, but found no resourceSpans (field 1) in it.',
        0
      );
    }
    return groups;
  });
}

/**
 * Decodes OTLP traces in JSON: one object, or one object a line.
 * @throws EvidenceError `json-damaged`, `not-otlp`.
 */
export function decodeTracesJson(text: string, limits: ValueLimits = DEFAULT_VALUE_LIMITS): TraceBatch {
  return readBatch(limits, (cut) =>
    parseDocuments(text).flatMap((document) => groupsOf(document, limits, cut))
  );
}

function parseDocuments(text: string): Loose[] {
  refuseTooManyParts(text);
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

function groupsOf(document: Loose, limits: ValueLimits, cut: () => void): SpanGroup[] {
  return listOf(document.resourceSpans).map((group) => ({
    resource: attributesOf((group.resource as Loose | undefined)?.attributes, limits, cut),
    spans: [...listOf(group.scopeSpans), ...listOf(group.instrumentationLibrarySpans)].flatMap((scope) =>
      listOf(scope.spans).map((raw) => fieldsOf(raw, limits, cut))
    )
  }));
}

function readBatch(limits: ValueLimits, groupsIn: (cut: () => void) => SpanGroup[]): TraceBatch {
  const warnings = new Warnings();
  const rejected = new Map<string, number>();
  const spans: RawSpan[] = [];
  const cut = (): void =>
    warnings.add(
      'attribute-cut',
      'An attribute went beyond the limits on count, length or depth and was cut.'
    );
  for (const group of groupsIn(cut)) {
    const resource = resourceFrom(group.resource);
    for (const fields of group.spans) {
      const span = spanFrom(fields, resource, limits, warnings);
      if (typeof span === 'string') rejected.set(span, (rejected.get(span) ?? 0) + 1);
      else spans.push(span);
    }
  }
  return {
    spans,
    rejected: [...rejected].map(([reason, count]) => ({ reason, count })),
    warnings: warnings.list()
  };
}

function fieldsOf(raw: Loose, limits: ValueLimits, cut: () => void): SpanFields {
  const status = (raw.status ?? {}) as Loose;
  return {
    traceId: idOf(raw.traceId, 16),
    spanId: idOf(raw.spanId, 8),
    parentId: idOf(raw.parentSpanId, 8),
    name: stringOf(raw.name),
    kind: kindOf(raw.kind),
    begin: momentOf(raw.startTimeUnixNano),
    finish: momentOf(raw.endTimeUnixNano),
    status: statusOf(status.code),
    statusMessage: stringOf(status.message),
    attributes: attributesOf(raw.attributes, limits, cut),
    events: eventsOf(raw.events, limits, cut)
  };
}

function eventsOf(list: unknown, limits: ValueLimits, cut: () => void): SpanFields['events'] {
  const events = listOf(list);
  if (events.length > MAX_EVENTS) cut();
  return events.slice(0, MAX_EVENTS).map((raw) => ({
    name: stringOf(raw.name),
    at: momentOf(raw.timeUnixNano),
    attributes: attributesOf(raw.attributes, limits, cut)
  }));
}

const KIND_NAMES = ['UNSPECIFIED', 'INTERNAL', 'SERVER', 'CLIENT', 'PRODUCER', 'CONSUMER'];
/** The standard asks for numbers; the names some senders write are understood too. */
function kindOf(value: unknown): number {
  const named = typeof value === 'string' && value.startsWith('SPAN_KIND_');
  return named ? KIND_NAMES.indexOf(value.slice(10)) : intOf(value);
}

function statusOf(value: unknown): number {
  if (value === 'STATUS_CODE_ERROR') return 2;
  if (value === 'STATUS_CODE_OK') return 1;
  return intOf(value);
}
