import type { CallKind } from '@tromix/core/calls/call';
import type { Attributes, AttributeValue, Resource, Span, SpanEvent } from '@tromix/core/trace/span';

/** What spans have in common, attributes and events as their stored JSON; and their call group. */
export type SharedFacts = [
  own: [
    traceId: string,
    resourceId: number,
    kind: number,
    name: string,
    status: number,
    statusMessage: string,
    origin: string,
    attributes: string,
    events: string,
    callGroupId: number | null
  ],
  callKind: string | null,
  fingerprint: string | null,
  verb: string | null
];

/**
 * Stored spans by columns, one value for each span (see `spansSelect`). Most spans of a trace are like others: what they share
 * is reported once, which makes a text a quarter as long, and quicker to read.
 */
export interface StoredSpans {
  spanIds: string[];
  parentIds: string[];
  /** Epoch microseconds, and nanoseconds beyond them. */
  startUs: number[];
  startNs: number[];
  durationNs: number[];
  literals: (number | null)[];
  rows: (number | null)[];
  /** Where in `facts` the rest stands. */
  facts: SharedFacts[];
  factsOf: number[];
}

/** Spans as they were before they were stored, less what was masked. @throws Error where a process is not among the resources. */
export function spansFrom(stored: StoredSpans, resources: ReadonlyMap<number, Resource>): Span[] {
  const known = new Map<string, Attributes>();
  const shared = stored.facts.map((facts) => sharedParts(facts, resources, known));
  return stored.spanIds.map((spanId, i) => {
    const { span, call } = shared[stored.factsOf[i]];
    return {
      traceId: span.traceId,
      spanId,
      parentId: stored.parentIds[i],
      name: span.name,
      kind: span.kind,
      startUs: stored.startUs[i],
      startNs: stored.startNs[i],
      durationNs: stored.durationNs[i],
      status: span.status,
      statusMessage: span.statusMessage,
      attributes: span.attributes,
      events: span.events,
      resource: span.resource,
      call: call && {
        kind: call.kind,
        fingerprint: call.fingerprint,
        literals: stored.literals[i],
        origin: call.origin,
        rows: stored.rows[i],
        verb: call.verb
      }
    };
  });
}

type OwnFacts = 'spanId' | 'parentId' | 'startUs' | 'startNs' | 'durationNs' | 'call';
interface SharedParts {
  span: Omit<Span, OwnFacts>;
  call: Omit<NonNullable<Span['call']>, 'literals' | 'rows'> | null;
}

/** @param known attributes already read, by their text: one Map for all that are alike. */
function sharedParts(
  [own, callKind, fingerprint, verb]: SharedFacts,
  resources: ReadonlyMap<number, Resource>,
  known: Map<string, Attributes>
): SharedParts {
  const [traceId, resourceId, kind, name, status, statusMessage, origin, text, events] = own;
  const resource = resources.get(resourceId);
  if (!resource) throw new Error(`A span of ${traceId} names resource ${resourceId}, which is not stored.`);
  let attributes = known.get(text);
  if (!attributes) known.set(text, (attributes = attributesFrom(text)));
  return {
    span: { traceId, name, kind, status, statusMessage, attributes, events: eventsFrom(events), resource },
    call:
      callKind && fingerprint !== null
        ? { kind: callKind as CallKind, fingerprint, origin, verb: verb ?? '' }
        : null
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
