import type { Span, SpanEvent } from '@tromix/core/trace/span';
import { rowsOf } from '../db/rows';
import { spans } from '../db/schema';

export const SPANS = rowsOf(spans);

/** A span as it is stored. */
export const spanRow = (
  span: Span,
  resourceId: number,
  callGroupId: number | null
): typeof spans.$inferInsert => ({
  traceId: span.traceId,
  spanId: span.spanId,
  parentId: span.parentId,
  resourceId,
  startUs: span.startUs,
  startNs: span.startNs,
  durationNs: span.durationNs,
  kind: span.kind,
  name: span.name,
  status: span.status,
  statusMessage: span.statusMessage,
  callGroupId,
  literals: span.call?.literals ?? null,
  rows: span.call?.rows ?? null,
  origin: span.call?.origin ?? '',
  attributes: JSON.stringify([...span.attributes]),
  events: span.events.length === 0 ? '[]' : JSON.stringify(span.events.map(eventRow))
});

const eventRow = (event: SpanEvent): unknown[] => [event.name, event.offsetNs, [...event.attributes]];

/**
 * Selects spans as `StoredSpans` in one JSON text: many times faster than row by row through the client.
 * @param where condition on `spans`.
 */
export const spansSelect = (where: string): string => `
  WITH found AS MATERIALIZED (
    SELECT span_id, parent_id, start_us, start_ns, duration_ns, literals, rows, call_group_id,
      json_array(trace_id, resource_id, kind, name, status, status_message, origin, attributes, events, call_group_id) AS text
    FROM spans WHERE ${where}),
  facts AS MATERIALIZED (
    SELECT row_number() OVER () - 1 AS place, text, call_group_id FROM (SELECT DISTINCT text, call_group_id FROM found))
  SELECT json_object(
    'facts', (SELECT json_group_array(json_array(json(f.text), c.kind, c.fingerprint, c.verb) ORDER BY f.place)
      FROM facts f LEFT JOIN call_groups c ON c.id = f.call_group_id),
    'factsOf', json_group_array(f.place),
    'spanIds', json_group_array(s.span_id),
    'parentIds', json_group_array(s.parent_id),
    'startUs', json_group_array(s.start_us),
    'startNs', json_group_array(s.start_ns),
    'durationNs', json_group_array(s.duration_ns),
    'literals', json_group_array(s.literals),
    'rows', json_group_array(s.rows)) AS spans
  FROM found s CROSS JOIN facts f ON f.text = s.text`;
