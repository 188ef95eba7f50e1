import type { Rule } from '../../findings/request-rules';
import { SpanKind } from '../../trace/span';
import { http, Request, sql, type Asked, type RequestShape } from './request';

/** What people ask in loops, each with what its rule is. */
const ASKED: { of: string; rule: Rule; kind?: number; known: boolean; ask: Asked }[] = [
  ...['postgresql', 'mysql', 'microsoft.sql_server'].map((system) => ({
    of: `${system} with values`,
    rule: 'query-per-row' as const,
    known: true,
    ask: (i: number) => sql(system, `SELECT due FROM port_call WHERE vessel = ${i}`)
  })),
  {
    of: 'postgresql without values',
    rule: 'query-per-row',
    known: false,
    ask: () => sql('postgresql', 'SELECT due FROM port_call WHERE vessel = $1')
  },
  {
    of: 'an object mapper that asks for one',
    rule: 'query-per-row',
    known: false,
    ask: () =>
      sql('postgresql', 'SELECT "v"."id" FROM "vessel" "v" WHERE ("v"."id" = $1 AND 1=1) LIMIT $2 OFFSET $3')
  },
  {
    of: 'a document store',
    rule: 'query-per-row',
    known: true,
    ask: (i) => ({
      'db.system.name': 'mongodb',
      'db.operation.name': 'find',
      'db.collection.name': 'vessel',
      'db.query.text': `{"_id": ${i}}`
    })
  },
  {
    of: 'inserts',
    rule: 'row-by-row-writes',
    known: true,
    ask: (i) => sql('mysql', `INSERT INTO cargo (vessel, tonnes) VALUES (${i}, ${i * 2})`)
  },
  {
    of: 'updates',
    rule: 'row-by-row-writes',
    known: false,
    ask: () => sql('postgresql', 'UPDATE berth SET depth = $1 WHERE id = $2')
  },
  { of: 'a cache', rule: 'chatty-cache', known: true, ask: (i) => sql('redis', `GET tide:${i}`) },
  { of: 'HTTP', rule: 'chatty-remote', known: true, ask: (i) => http('GET', `http://pilots/p/${i}`) },
  {
    of: 'GraphQL over HTTP',
    rule: 'chatty-remote',
    known: false,
    ask: () => http('POST', 'http://manifests/graphql')
  },
  {
    of: 'RPC',
    rule: 'chatty-remote',
    known: false,
    ask: () => ({ 'rpc.system': 'grpc', 'rpc.service': 'Pilots', 'rpc.method': 'Find' })
  },
  {
    of: 'messages',
    rule: 'chatty-messaging',
    kind: SpanKind.PRODUCER,
    known: false,
    ask: () => ({
      'messaging.system': 'rabbitmq',
      'messaging.operation.type': 'send',
      'messaging.destination.name': 'notices'
    })
  }
];

/** Calls of each loop. */
export const CALLS = 12;
const each = (work: (i: number) => void): void => {
  for (let i = 0; i < CALLS; i++) work(i);
};

/** How people write loops. */
const WRITTEN: { as: string; write: (ask: Asked, kind: number) => Request }[] = [
  {
    as: 'one after another',
    write: (ask, kind) => {
      const request = new Request(200);
      each((i) => request.call(10 + i * 15, 20 + i * 15, ask(i), { kind }));
      return request;
    }
  },
  {
    as: 'each under a span of its row',
    write: (ask, kind) => {
      const request = new Request(200);
      each((i) => {
        const row = request.add({ name: `describe ${i}`, from: 10 + i * 15, to: 23 + i * 15 });
        request.call(11 + i * 15, 21 + i * 15, ask(i), { parent: row, kind });
      });
      return request;
    }
  },
  {
    as: 'side by side',
    write: (ask, kind) => {
      const request = new Request(120);
      each((i) => request.call(10 + i * 0.1, 60 + i * 4, ask(i), { kind }));
      return request;
    }
  },
  {
    as: 'two at a time',
    write: (ask, kind) => {
      const request = new Request(160);
      each((i) => request.call(10 + (i >> 1) * 22, 30 + (i >> 1) * 22 - (i % 2), ask(i), { kind }));
      return request;
    }
  },
  {
    as: 'slightly overlapping',
    write: (ask, kind) => {
      const request = new Request(180);
      each((i) => request.call(10 + i * 12, 23.5 + i * 12, ask(i), { kind }));
      return request;
    }
  },
  {
    as: 'in turns with another query',
    write: (ask, kind) => {
      const request = new Request(260);
      each((i) => {
        request.call(10 + i * 20, 19 + i * 20, ask(i), { kind });
        request.call(20 + i * 20, 21 + i * 20, sql('sqlite', `SELECT ${'abcdefghijkl'[i]} FROM note`));
      });
      return request;
    }
  },
  {
    as: 'in a loop in a loop',
    write: (ask, kind) => {
      const request = new Request(260);
      each((i) => {
        const outer = Math.floor(i / 4);
        const around =
          i % 4 === 0
            ? request.add({ id: `o${outer}`, name: 'quay', from: 9 + i * 20, to: 9 + (i + 4) * 20 })
            : `o${outer}`;
        request.call(10 + i * 20, 25 + i * 20, ask(i), { parent: around, kind });
      });
      return request;
    }
  },
  {
    as: 'handed over by spans that end at once',
    write: (ask, kind) => {
      const request = new Request(260);
      each((i) => {
        const resolver = request.add({
          name: `resolve rows.${i}.calls`,
          from: 10 + i * 20,
          to: 10.2 + i * 20
        });
        request.call(10.1 + i * 20, 25 + i * 20, ask(i), { parent: resolver, kind });
      });
      return request;
    }
  }
];

/** Every way of writing a loop over everything people ask. */
export const LOOPS: RequestShape[] = ASKED.flatMap(({ of, rule, kind = SpanKind.CLIENT, ask }) =>
  WRITTEN.map(({ as, write }) => ({
    name: `a loop over ${of}, ${as}`,
    spans: write(ask, kind).spans,
    must: [rule]
  }))
);
