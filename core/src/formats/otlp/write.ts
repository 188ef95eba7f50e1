import { groupBy } from '../../group-by';
import type { Attributes, AttributeValue, Span } from '../../trace/span';

interface Value {
  stringValue?: string;
  boolValue?: boolean;
  intValue?: string;
  doubleValue?: number;
  arrayValue?: { values: Value[] };
}

/** An attribute value in OTLP/JSON: integers as decimal text (proto3 JSON mapping of int64). */
function valueOf(value: AttributeValue): Value {
  if (value === null) return {};
  if (typeof value === 'string') return { stringValue: value };
  if (typeof value === 'boolean') return { boolValue: value };
  if (typeof value === 'number')
    return Number.isSafeInteger(value) ? { intValue: String(value) } : { doubleValue: value };
  return { arrayValue: { values: value.map(valueOf) } };
}

const attributesOf = (attributes: Attributes): { key: string; value: Value }[] =>
  [...attributes].map(([key, value]) => ({ key, value: valueOf(value) }));

const nanos = (us: number, ns: number): string => (BigInt(us) * 1000n + BigInt(ns)).toString();

/**
 * Spans as an OTLP/JSON `ExportTraceServiceRequest` (OTLP 1.x), one resource for each process. What was masked when they were taken
 * in is not in them.
 */
export function writeTracesJson(spans: readonly Span[]): string {
  const byResource = groupBy(spans, (span) => span.resource.key);
  const resourceSpans = [...byResource.values()].map((list) => ({
    resource: { attributes: attributesOf(list[0].resource.attributes) },
    scopeSpans: [{ scope: { name: '' }, spans: list.map(spanOf) }]
  }));
  return JSON.stringify({ resourceSpans });
}

function spanOf(span: Span): object {
  const attributes = new Map(span.attributes);
  // The masked statement stands in for the text that was not stored.
  if (span.call?.kind === 'database' && !attributes.has('db.query.text'))
    attributes.set('db.query.text', span.call.fingerprint);
  return {
    traceId: span.traceId,
    spanId: span.spanId,
    ...(span.parentId ? { parentSpanId: span.parentId } : {}),
    name: span.name,
    kind: span.kind,
    startTimeUnixNano: nanos(span.startUs, span.startNs),
    endTimeUnixNano: nanos(span.startUs, span.startNs + span.durationNs),
    attributes: attributesOf(attributes),
    events: span.events.map((event) => ({
      name: event.name,
      timeUnixNano: nanos(span.startUs, span.startNs + event.offsetNs),
      attributes: attributesOf(event.attributes)
    })),
    status: { code: span.status, ...(span.statusMessage ? { message: span.statusMessage } : {}) }
  };
}
