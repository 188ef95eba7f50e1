import type { Attributes, Resource, Span, SpanEvent } from '@tromix/core/trace/span';
import type { CallKind } from '@tromix/core/calls/identity';

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
    span.attributes.size === 0 ? '' : JSON.stringify([...span.attributes]),
    span.events.length === 0 ? '' : JSON.stringify(span.events.map((event) => [event.name, event.offsetNs, [...event.attributes]]))
  ];
}

/** A stored span with its resource and call group, as one JSON list a row (see `SPAN_SELECT`). */
export type StoredSpan = [
  string, string, string, number, number, number, number, number, string, number, string,
  number | null, number | null, string, string, string, string | null, string | null, string | null
];

/** Selects spans as `StoredSpan`s in one JSON text: many times faster than row by row through the client. */
export const SPAN_SELECT = `SELECT json_group_array(json_array(s.trace_id, s.span_id, s.parent_id, s.resource_id, s.start_us, s.start_ns, s.duration_ns,
  s.kind, s.name, s.status, s.status_message, s.literals, s.rows, s.origin, s.attributes, s.events, c.kind, c.fingerprint, c.verb)) AS spans
  FROM spans s LEFT JOIN call_groups c ON c.id = s.call_group_id`;

export function spanFrom(row: StoredSpan, resources: ReadonlyMap<number, Resource>): Span {
  const [traceId, spanId, parentId, resourceId, startUs, startNs, durationNs, kind, name, status, statusMessage] = row;
  const [, , , , , , , , , , , literals, rows, origin, attributes, events, callKind, fingerprint, verb] = row;
  const resource = resources.get(resourceId);
  if (!resource) throw new Error(`Span ${spanId} names resource ${resourceId}, which is not stored.`);
  const call = callKind && fingerprint !== null ? { kind: callKind as CallKind, fingerprint, literals, origin, rows, verb: verb ?? '' } : null;
  return {
    traceId,
    spanId,
    parentId,
    name,
    kind,
    startUs,
    startNs,
    durationNs,
    status,
    statusMessage,
    attributes: attributesFrom(attributes),
    events: eventsFrom(events),
    resource,
    call
  };
}

export function attributesFrom(text: string): Attributes {
  return new Map(text === '' ? [] : (JSON.parse(text) as [string, string][]));
}

function eventsFrom(text: string): SpanEvent[] {
  if (text === '') return [];
  const list = JSON.parse(text) as [string, number, [string, string][]][];
  return list.map(([name, offsetNs, attributes]) => ({ name, offsetNs, attributes: new Map(attributes) }));
}
