import type { RequestPage } from '$lib/server/queries/request';
import type { StoredSpan } from '$lib/stored-span';
import { modelOf, type RequestModel } from '$lib/ui/timeline/request-model';

/** Makers of stored requests for tests. The moment they begin at, epoch microseconds. */
export const T0 = 1_700_000_000_000_000;
/** A stored span: milliseconds from T0. */
export function stored(
  id: number,
  parent: number,
  from: number,
  to: number,
  call?: { kind: string; text: string; literals: number },
  name = 'work',
  kind = 1
): StoredSpan {
  const hex = (n: number): string => (n ? n.toString(16).padStart(16, '0') : '');
  return [
    'a'.repeat(32),
    hex(id),
    hex(parent),
    1,
    T0 + from * 1000,
    0,
    (to - from) * 1e6,
    kind,
    name,
    0,
    '',
    call?.literals ?? null,
    null,
    call ? 'berths/plan.ts:25' : '',
    call ? '[["db.system.name","sqlite"]]' : '[]',
    '[]',
    call?.kind ?? null,
    call?.text ?? null,
    'select'
  ];
}

function page(spans: StoredSpan[]): RequestPage {
  return {
    traceId: 'a'.repeat(32),
    spanId: '0000000000000001',
    spans: new TextEncoder().encode(JSON.stringify(spans)),
    resources: [[1, { service: 'berths', host: 'quay-2', release: '7.3', pid: 42, key: 'k' }]],
    profiles: [],
    dumps: [],
    same: [],
    endpointRequests: 1,
    slower: null,
    faster: null,
    normal: null,
    logs: [],
    hasSources: false
  };
}
/** Twelve like queries under span 1, 15 of every 20 ms. */
export const loop = Array.from({ length: 12 }, (_, i) =>
  stored(10 + i, 1, i * 20, i * 20 + 15, {
    kind: 'database',
    text: 'select id, tonnes from manifest where id = ?',
    literals: i
  })
);
/** The request of span 1. */
export const requestModel = (spans: StoredSpan[]): RequestModel => modelOf(page(spans));
