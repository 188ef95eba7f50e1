import type { CallKind } from '@tromix/core/calls/call';
import type { Attributes, AttributeValue, Resource, Span, SpanEvent } from '@tromix/core/trace/span';

/** A stored span with its resource and call group, as one JSON list a row (see `SPAN_SELECT`). */
export type StoredSpan = [
  string,
  string,
  string,
  number,
  number,
  number,
  number,
  number,
  string,
  number,
  string,
  number | null,
  number | null,
  string,
  string,
  string,
  string | null,
  string | null,
  string | null
];

/** Spans as they were before they were stored, less what was masked. Like attributes, of which many spans of a trace have, are one Map. */
export function spansFrom(rows: readonly StoredSpan[], resources: ReadonlyMap<number, Resource>): Span[] {
  const known = new Map<string, Attributes>();
  const attributesOf = (text: string): Attributes => {
    let attributes = known.get(text);
    if (!attributes) known.set(text, (attributes = attributesFrom(text)));
    return attributes;
  };
  return rows.map((row) => spanFrom(row, resources, attributesOf));
}

function spanFrom(
  row: StoredSpan,
  resources: ReadonlyMap<number, Resource>,
  attributesOf: (text: string) => Attributes
): Span {
  const [
    traceId,
    spanId,
    parentId,
    resourceId,
    startUs,
    startNs,
    durationNs,
    kind,
    name,
    status,
    statusMessage
  ] = row;
  const [, , , , , , , , , , , literals, rows, origin, attributes, events, callKind, fingerprint, verb] = row;
  const resource = resources.get(resourceId);
  if (!resource) throw new Error(`Span ${spanId} names resource ${resourceId}, which is not stored.`);
  const call =
    callKind && fingerprint !== null
      ? { kind: callKind as CallKind, fingerprint, literals, origin, rows, verb: verb ?? '' }
      : null;
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
    attributes: attributesOf(attributes),
    events: eventsFrom(events),
    resource,
    call
  };
}

/** Attributes out of their stored form: a JSON list of [name, value]. */
export function attributesFrom(text: string): Attributes {
  return new Map(JSON.parse(text) as [string, AttributeValue][]);
}

function eventsFrom(text: string): SpanEvent[] {
  if (text === '[]') return [];
  const list = JSON.parse(text) as [string, number, [string, AttributeValue][]][];
  return list.map(([name, offsetNs, attributes]) => ({ name, offsetNs, attributes: new Map(attributes) }));
}
