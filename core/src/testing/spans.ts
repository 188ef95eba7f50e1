import type { RawSpan } from '../calls/mask';
import { maskSpan } from '../calls/mask';
import { accountTrace, type TraceAccount } from '../trace/requests';
import { SpanKind, type AttributeValue, type Resource, type Span, type SpanEvent } from '../trace/span';
import { buildTree } from '../trace/tree';

/** Makers of spans for tests. Times in milliseconds from a fixed moment. */
const BASE_US = 1_700_000_000_000_000;
export const TRACE_ID = 'a'.repeat(32);

export function resource(service = 'berths', host = 'quay-2', pid = 7): Resource {
  return { service, host, release: '7.3', pid, attributes: new Map(), key: `${service} ${host} ${pid}` };
}

const HERE = resource();

export interface SpanShape {
  id: string;
  parent?: string;
  name?: string;
  kind?: number;
  from: number;
  to: number;
  attributes?: Record<string, AttributeValue>;
  events?: SpanEvent[];
  status?: number;
  resource?: Resource;
}

export const idOf = (name: string): string => {
  let hex = '';
  for (let i = 0; i < name.length; i++) hex += name.charCodeAt(i).toString(16).padStart(2, '0');
  return hex.slice(-16).padStart(16, '0');
};

export function rawSpan(shape: SpanShape): RawSpan {
  const startNs = Math.round(shape.from * 1e6);
  return {
    traceId: TRACE_ID,
    spanId: idOf(shape.id),
    parentId: shape.parent ? idOf(shape.parent) : '',
    name: shape.name ?? shape.id,
    kind: shape.kind ?? SpanKind.INTERNAL,
    startUs: BASE_US + Math.floor(startNs / 1000),
    startNs: ((startNs % 1000) + 1000) % 1000,
    durationNs: Math.round((shape.to - shape.from) * 1e6),
    status: shape.status ?? 0,
    statusMessage: '',
    attributes: new Map(Object.entries(shape.attributes ?? {})),
    events: shape.events ?? [],
    resource: shape.resource ?? HERE
  };
}

export function span(shape: SpanShape): Span {
  return maskSpan(rawSpan(shape), { hashKey: 1, keepLiteralsOf: new Set() });
}

/** A database call of the loop kind. */
export function query(
  id: string,
  parent: string,
  from: number,
  to: number,
  sql: string,
  parameter?: string
): Span {
  return span({
    id,
    parent,
    from,
    to,
    kind: SpanKind.CLIENT,
    attributes: {
      'db.system.name': 'postgresql',
      'db.query.text': sql,
      'code.file.path': 'berths/plan.ts',
      'code.line.number': 88,
      ...(parameter === undefined ? {} : { 'db.query.parameter.0': parameter })
    }
  });
}

export function traceOf(spans: readonly Span[]): TraceAccount {
  return accountTrace(buildTree(spans));
}
