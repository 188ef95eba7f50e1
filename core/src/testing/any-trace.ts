import fc from 'fast-check';
import { SpanKind, type AttributeValue } from '../trace/span';
import { resource, type SpanShape } from './spans';

const HERE = resource('berths', 'quay-2', 7);
const THERE = resource('tides', 'quay-3', 9);

const ASKS: Record<string, Record<string, AttributeValue>> = {
  nothing: {},
  database: { 'db.system.name': 'sqlite', 'db.query.text': 'select tonnes from manifest where id = 4' },
  other: { 'db.system.name': 'sqlite', 'db.query.text': 'select name from vessel' },
  write: { 'db.system.name': 'sqlite', 'db.query.text': 'insert into log values (1)' },
  http: { 'http.request.method': 'GET', 'url.full': 'http://tides/x' },
  cache: { 'db.system.name': 'redis', 'db.query.text': 'GET a:1' },
  lock: { 'lock.name': 'ledger' }
};

/** Random traces: parallel, overlapping and outliving children, of two processes, like calls, parents that never come, failures. */
export const anySpans = fc
  .array(
    fc.record({
      parent: fc.nat(40),
      from: fc.integer({ min: 0, max: 1000 }),
      length: fc.integer({ min: 0, max: 600 }),
      kind: fc.constantFrom(SpanKind.INTERNAL, SpanKind.CLIENT, SpanKind.SERVER, SpanKind.CONSUMER),
      asks: fc.constantFrom(...Object.keys(ASKS)),
      orphan: fc.integer({ min: 0, max: 9 }),
      there: fc.boolean(),
      failed: fc.integer({ min: 0, max: 5 })
    }),
    { minLength: 1, maxLength: 40 }
  )
  .map((list) =>
    list.map((one, i): SpanShape => {
      const parent = i === 0 ? undefined : one.orphan === 0 ? 'gone' : `n${one.parent % i}`;
      return {
        id: `n${i}`,
        parent,
        from: one.from,
        to: one.from + one.length,
        kind: one.kind,
        status: one.failed === 0 ? 2 : 0,
        resource: one.there ? THERE : HERE,
        attributes: ASKS[one.asks]
      };
    })
  );
