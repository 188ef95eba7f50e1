import type { Span, SpanEvent } from '@tromix/core/trace/span';

/** Columns of `spans` in the order of `spanRow`. */
export const SPAN_COLUMNS = [
  'trace_id',
  'span_id',
  'parent_id',
  'resource_id',
  'start_us',
  'start_ns',
  'duration_ns',
  'kind',
  'name',
  'status',
  'status_message',
  'call_group_id',
  'literals',
  'rows',
  'origin',
  'attributes',
  'events'
];

export function spanRow(span: Span, resourceId: number, callGroupId: number | null): unknown[] {
  return [
    span.traceId,
    span.spanId,
    span.parentId,
    resourceId,
    span.startUs,
    span.startNs,
    span.durationNs,
    span.kind,
    span.name,
    span.status,
    span.statusMessage,
    callGroupId,
    span.call?.literals ?? null,
    span.call?.rows ?? null,
    span.call?.origin ?? '',
    JSON.stringify([...span.attributes]),
    span.events.length === 0 ? '[]' : JSON.stringify(span.events.map(eventRow))
  ];
}

const eventRow = (event: SpanEvent): unknown[] => [event.name, event.offsetNs, [...event.attributes]];

/** Selects spans as `StoredSpan`s in one JSON text: many times faster than row by row through the client. */
export const SPAN_SELECT = `SELECT json_group_array(json_array(s.trace_id, s.span_id, s.parent_id, s.resource_id, s.start_us, s.start_ns, s.duration_ns,
  s.kind, s.name, s.status, s.status_message, s.literals, s.rows, s.origin, s.attributes, s.events, c.kind, c.fingerprint, c.verb)) AS spans
  FROM spans s LEFT JOIN call_groups c ON c.id = s.call_group_id`;
