import type { RequestPage } from '$lib/server/queries/request-page';
import type { SharedFacts, StoredSpans } from '$lib/stored-spans';
import { modelOf, type RequestModel } from '$lib/ui/request/request-model';

/** Makers of stored requests for tests. The moment they begin at, epoch microseconds. */
export const T0 = 1_700_000_000_000_000;
/** One span of a test. */
export interface TestSpan {
  spanId: string;
  parentId: string;
  startUs: number;
  durationNs: number;
  literals: number | null;
  facts: SharedFacts;
}

/** A stored span: milliseconds from T0. */
export function stored(
  id: number,
  parent: number,
  from: number,
  to: number,
  call?: { kind: string; text: string; literals: number },
  name = 'work',
  kind = 1
): TestSpan {
  const hex = (n: number): string => (n ? n.toString(16).padStart(16, '0') : '');
  const origin = call ? 'berths/plan.ts:25' : '';
  const attributes = call ? '[["db.system.name","sqlite"]]' : '[]';
  return {
    spanId: hex(id),
    parentId: hex(parent),
    startUs: T0 + from * 1000,
    durationNs: (to - from) * 1e6,
    literals: call?.literals ?? null,
    facts: [
      ['a'.repeat(32), 1, kind, name, 0, '', origin, attributes, '[]', call ? 1 : null],
      call?.kind ?? null,
      call?.text ?? null,
      call ? 'select' : null
    ]
  };
}

const columnsOf = (spans: readonly TestSpan[]): StoredSpans => ({
  spanIds: spans.map(({ spanId }) => spanId),
  parentIds: spans.map(({ parentId }) => parentId),
  startUs: spans.map(({ startUs }) => startUs),
  startNs: spans.map(() => 0),
  durationNs: spans.map(({ durationNs }) => durationNs),
  literals: spans.map(({ literals }) => literals),
  rows: spans.map(() => null),
  facts: spans.map(({ facts }) => facts),
  factsOf: spans.map((_, i) => i)
});

function page(spans: readonly TestSpan[]): RequestPage {
  return {
    traceId: 'a'.repeat(32),
    spanId: '0000000000000001',
    spans: new TextEncoder().encode(JSON.stringify(columnsOf(spans))),
    resources: [[1, { service: 'berths', host: 'quay-2', release: '7.3', pid: 42, key: 'k' }]],
    profiles: [],
    dumps: [],
    same: [],
    slower: null,
    faster: null,
    normal: null,
    logs: [],
    askedBy: [],
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
export const requestModel = (spans: readonly TestSpan[]): RequestModel => modelOf(page(spans));
