import type { Rule } from '../findings/finding';
import { SpanKind, type AttributeValue, type Span } from '../trace/span';
import { resource, span, type SpanShape } from './spans';

/** A request as programs make them, with the rules that must speak of it, and those that may. All other rules must be silent. */
export interface RequestShape {
  name: string;
  spans: Span[];
  must: readonly Rule[];
  may?: readonly Rule[];
}

type Attributes = Record<string, AttributeValue>;
type Asked = (i: number) => Attributes;

/** Collects the spans of one request. Times in milliseconds. */
class Request {
  readonly #spans: SpanShape[];
  #next = 0;

  constructor(to: number, attributes: Attributes = {}) {
    this.#spans = [{ id: 'r', name: 'GET /calls', kind: SpanKind.SERVER, from: 0, to, attributes }];
  }

  add(shape: Omit<SpanShape, 'id'> & { id?: string }): string {
    const id = shape.id ?? `s${this.#next++}`;
    this.#spans.push({ parent: 'r', ...shape, id });
    return id;
  }

  call(from: number, to: number, attributes: Attributes, more: Partial<SpanShape> = {}): string {
    return this.add({ name: 'call', kind: SpanKind.CLIENT, from, to, attributes, ...more });
  }

  get spans(): Span[] {
    return this.#spans.map(span);
  }
}

const sql = (system: string, text: string, more: Attributes = {}): Attributes => ({
  'db.system.name': system,
  'db.query.text': text,
  ...more
});
const http = (method: string, url: string, more: Attributes = {}): Attributes => ({
  'http.request.method': method,
  'url.full': url,
  'http.response.status_code': 200,
  ...more
});

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

const CALLS = 12;
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

const loops: RequestShape[] = ASKED.flatMap(({ of, rule, kind = SpanKind.CLIENT, ask }) =>
  WRITTEN.map(({ as, write }) => ({
    name: `a loop over ${of}, ${as}`,
    spans: write(ask, kind).spans,
    must: [rule]
  }))
);

/** Like calls that are no loops, or none worth a word. */
const REPEATED: { of: string; must?: Rule[]; ask: Asked; gap?: number; calls?: number }[] = [
  {
    of: 'pages by offset',
    ask: (i) => sql('postgresql', `SELECT id FROM port_call ORDER BY id LIMIT 20 OFFSET ${i * 20}`)
  },
  {
    of: 'pages by offset of one owner',
    ask: () => sql('postgresql', 'SELECT id FROM port_call WHERE owner = $1 ORDER BY id LIMIT $2 OFFSET $3')
  },
  {
    of: 'pages of MySQL',
    ask: (i) => sql('mysql', `SELECT id FROM port_call ORDER BY id LIMIT ${i * 20}, 20`)
  },
  {
    of: 'pages by key',
    ask: (i) => sql('postgresql', `SELECT id FROM port_call WHERE id > ${i} ORDER BY id LIMIT 20`)
  },
  {
    of: 'pages by a pair of keys',
    ask: () =>
      sql('postgresql', 'SELECT id FROM port_call WHERE (due, id) > ($1, $2) ORDER BY due, id LIMIT $3')
  },
  {
    of: 'pages by FETCH',
    ask: () => sql('oracle', 'SELECT id FROM port_call WHERE id > :1 ORDER BY id FETCH FIRST 20 ROWS ONLY')
  },
  {
    of: 'full pages, rows told',
    ask: (i) =>
      sql('postgresql', 'SELECT id FROM port_call WHERE id > $1 ORDER BY id LIMIT $2', {
        'db.response.returned_rows': i < CALLS - 1 ? 20 : 7
      })
  },
  {
    of: 'batches by IN',
    ask: (i) => sql('mysql', `SELECT due FROM port_call WHERE vessel IN (${i}, ${i + 1}, ${i + 2})`)
  },
  { of: 'batches by ANY', ask: () => sql('postgresql', 'SELECT due FROM port_call WHERE vessel = ANY($1)') },
  {
    of: 'batches by UNNEST',
    ask: () => sql('postgresql', 'SELECT due FROM port_call JOIN unnest($1) k ON k = vessel')
  },
  { of: 'COMMIT', ask: () => sql('postgresql', 'COMMIT') },
  { of: 'BEGIN', ask: () => sql('postgresql', 'BEGIN') },
  { of: 'SET', ask: (i) => sql('postgresql', `SET LOCAL statement_timeout = ${i}`) },
  { of: 'SAVEPOINT', ask: (i) => sql('postgresql', `SAVEPOINT s${i}`) },
  { of: 'sequence numbers', ask: () => sql('postgresql', "SELECT nextval('booking_number')") },
  { of: 'last ids', ask: () => sql('mysql', 'SELECT LAST_INSERT_ID()') },
  { of: 'random numbers', ask: () => sql('postgresql', 'SELECT random()') },
  {
    of: 'the same read',
    must: ['same-call-again'],
    ask: () => sql('postgresql', "SELECT v FROM setting WHERE n = 'a'")
  },
  {
    of: 'the same key',
    must: ['same-call-again', 'chatty-cache'],
    ask: () => sql('redis', 'GET setting:tide')
  },
  {
    of: 'the same page',
    must: ['same-call-again', 'chatty-remote'],
    ask: () => http('GET', 'http://tides/now')
  },
  {
    of: 'two values with opposite signs',
    calls: 4,
    ask: (i) => sql('postgresql', `SELECT id FROM tide WHERE level > ${i % 2 ? -5 : 5}`)
  },
  {
    of: 'a poll whose answer changes',
    calls: 4,
    gap: 300,
    ask: (i) => http('GET', 'http://pilots/job/1', { 'http.response.status_code': i < 3 ? 202 : 200 })
  },
  { of: 'a poll', calls: 4, gap: 300, ask: () => sql('postgresql', "SELECT state FROM job WHERE id = 'a'") },
  {
    of: 'a locking read',
    calls: 4,
    ask: () => sql('postgresql', "SELECT id FROM berth WHERE id = 'a' FOR UPDATE")
  },
  {
    of: 'four queries',
    calls: 4,
    ask: (i) => sql('postgresql', `SELECT due FROM port_call WHERE vessel = ${i}`)
  },
  {
    of: 'different queries',
    ask: (i) => sql('postgresql', `SELECT ${'abcdefghijkl'[i]} FROM note WHERE id = 1`)
  },
  { of: 'opened connections', ask: () => ({ 'db.system.name': 'postgresql' }) },
  {
    of: 'cut statements',
    calls: 4,
    ask: () => sql('postgresql', `SELECT id FROM vessel WHERE name = 'the same and then it was cut of`)
  }
];

const repeated: RequestShape[] = REPEATED.map(({ of, must = [], ask, gap = 2, calls = CALLS }) => {
  const request = new Request(40 + calls * (3 + gap) + 40);
  for (let i = 0; i < calls; i++)
    request.call(
      40 + i * (3 + gap),
      43 + i * (3 + gap),
      ask(i),
      of === 'opened connections' ? { name: 'pg.connect' } : {}
    );
  // A wait between is own code that nothing explains; a statement that locks says what it may have waited for.
  return {
    name: `${of}, again and again`,
    spans: request.spans,
    must,
    may: ['blind-stretch', 'waits-for-lock']
  };
});

const there = resource('pilots', 'quay-4', 12);
const make = (
  name: string,
  must: readonly Rule[],
  to: number,
  build: (request: Request) => void,
  may: readonly Rule[] = []
): RequestShape => {
  const request = new Request(to);
  build(request);
  return { name, spans: request.spans, must, may };
};
const read = (i: number | string): Attributes => sql('postgresql', `SELECT a${i} FROM t${i} WHERE id = 1`);
const PARTLY: readonly Rule[] = ['blind-stretch', 'failed-but-waited', 'one-slow-call', 'round-timeout'];

/** A read, a write to a table, the read again. */
const between = (write: string): RequestShape =>
  make(`reads with ${write} in between`, [], 120, (request) => {
    for (let i = 0; i < 4; i++) {
      request.call(10 + i * 20, 13 + i * 20, sql('postgresql', "SELECT n FROM stock WHERE id = 'a'"));
      request.call(15 + i * 20, 18 + i * 20, sql('postgresql', write));
    }
  });

const LIMITS = [1, 2, 3, 5, 10, 30];
const timeouts: RequestShape[] = LIMITS.flatMap((seconds) => {
  const ms = seconds * 1000;
  return [
    make(
      `a call that failed after ${seconds} s`,
      ['round-timeout', 'failed-but-waited'],
      ms + 40,
      (request) => request.call(10, 10 + ms * 1.005, http('GET', 'http://pilots/p'), { status: 2 }),
      PARTLY
    ),
    make(`a call that succeeded after ${seconds} s`, ['one-slow-call'], ms + 40, (request) =>
      request.call(10, 10 + ms * 1.005, http('GET', 'http://pilots/p'))
    ),
    make(
      `a call whose other side worked for ${seconds} s`,
      [],
      ms + 40,
      (request) => {
        const call = request.call(10, 10 + ms * 1.005, http('GET', 'http://pilots/p'), { status: 2 });
        request.add({
          name: 'GET /p',
          kind: SpanKind.SERVER,
          parent: call,
          from: 12,
          to: 8 + ms * 1.005,
          resource: there
        });
      },
      ['blind-stretch', 'failed-but-waited', 'one-slow-call']
    )
  ];
});

const together: RequestShape[] = [0, 1, 2].map((short) =>
  make(
    `three reads that could run together, ${short} short ones between`,
    ['could-run-together'],
    120,
    (request) => {
      for (let i = 0, at = 5; i < 3; i++) {
        request.call(at, at + 30, read(i));
        at += 30.5;
        for (let k = 0; k < short; k++, at += 1.5) request.call(at, at + 1, read(`short${i}${k}`));
      }
    }
  )
);

const waits: RequestShape[] = [
  ...['pg-pool.connect', 'generic-pool.acquire', 'HikariDataSource.getConnection', 'pool.acquire'].map(
    (name) =>
      make(`a wait for a connection: ${name}`, ['waits-for-connection'], 200, (request) => {
        request.add({
          name,
          kind: SpanKind.CLIENT,
          from: 10,
          to: 150,
          attributes: { 'db.system.name': 'postgresql' }
        });
        request.call(150, 190, read(1));
      })
  ),
  make('a new connection is opened', [], 200, (request) => {
    const pool = request.add({ name: 'pg-pool.connect', kind: SpanKind.CLIENT, from: 10, to: 90 });
    request.add({
      name: 'pg.connect',
      parent: pool,
      kind: SpanKind.CLIENT,
      from: 11,
      to: 89,
      attributes: { 'db.system.name': 'postgresql' }
    });
    request.call(90, 190, read(1));
  }),
  ...['FOR UPDATE', 'FOR SHARE', 'LOCK IN SHARE MODE', 'FOR NO KEY UPDATE'].map((how) =>
    make(
      `a read that locks: ${how}`,
      ['waits-for-lock'],
      700,
      (request) => {
        request.call(20, 600, sql('postgresql', `SELECT id FROM berth WHERE id = 1 ${how}`));
      },
      ['blind-stretch']
    )
  ),
  make(
    'a lock in the process',
    ['waits-for-lock'],
    700,
    (request) => {
      request.add({ name: 'wait for lock', from: 20, to: 600, attributes: { 'lock.name': 'ledger' } });
    },
    ['blind-stretch']
  ),
  make(
    'a short wait for a lock',
    [],
    700,
    (request) => {
      request.add({ name: 'wait for lock', from: 20, to: 28, attributes: { 'lock.name': 'ledger' } });
    },
    ['blind-stretch']
  )
];

const failures: RequestShape[] = [
  make(
    'a call tried again and again',
    ['retry-storm'],
    400,
    (request) => {
      for (let i = 0; i < 4; i++)
        request.call(10 + i * 90, 80 + i * 90, http('GET', 'http://pilots/p/1'), { status: i < 3 ? 2 : 0 });
    },
    PARTLY
  ),
  make(
    'a call tried twice',
    ['failed-but-waited'],
    300,
    (request) => {
      for (let i = 0; i < 2; i++)
        request.call(10 + i * 120, 110 + i * 120, http('GET', 'http://pilots/p/1'), {
          status: i < 1 ? 2 : 0
        });
    },
    ['blind-stretch']
  ),
  make(
    'a failure that was waited for',
    ['failed-but-waited'],
    400,
    (request) => {
      request.call(10, 200, http('GET', 'http://pilots/p/1'), { status: 2 });
    },
    ['blind-stretch']
  ),
  make(
    'a failure that came at once',
    [],
    400,
    (request) => {
      request.call(10, 20, http('GET', 'http://pilots/p/1'), { status: 2 });
    },
    ['blind-stretch']
  )
];

const others: RequestShape[] = [
  make('one slow call', ['one-slow-call'], 100, (request) => request.call(10, 90, read(1))),
  make('one call of a short request', [], 9, (request) => request.call(1, 8, read(1))),
  make('the answer is written after the request ended', [], 20, (request) => {
    for (let i = 0; i < 8; i++)
      request.call(21 + i * 10, 29 + i * 10, sql('postgresql', `SELECT 1 FROM t WHERE id = ${i}`));
  }),
  make(
    'very many rows',
    ['too-many-rows'],
    100,
    (request) =>
      request.call(
        10,
        40,
        sql('postgresql', 'SELECT id FROM port_call', { 'db.response.returned_rows': 40_000 })
      ),
    ['blind-stretch']
  ),
  make(
    'many rows of a page',
    [],
    100,
    (request) =>
      request.call(
        10,
        40,
        sql('postgresql', 'SELECT id FROM port_call LIMIT 5000', { 'db.response.returned_rows': 5000 })
      ),
    ['blind-stretch']
  ),
  make('own code alone', ['blind-stretch'], 300, () => undefined),
  make('short own code alone', [], 30, () => undefined),
  between("UPDATE stock SET n = 1 WHERE id = 'a'"),
  between("INSERT INTO stock VALUES ('b', 1)"),
  make('reads with a write to another table in between', ['same-call-again'], 120, (request) => {
    for (let i = 0; i < 4; i++) {
      request.call(10 + i * 20, 13 + i * 20, sql('postgresql', "SELECT n FROM stock WHERE id = 'a'"));
      request.call(15 + i * 20, 18 + i * 20, sql('postgresql', `INSERT INTO log${i} VALUES (1)`));
    }
  }),
  make('a query builder around the driver, four times', [], 120, (request) => {
    for (let i = 0; i < 4; i++) {
      const text = 'SELECT due FROM port_call WHERE vessel = $1';
      const outer = request.call(10 + i * 20, 20 + i * 20, sql('postgresql', text));
      request.call(11 + i * 20, 19 + i * 20, sql('postgresql', text), { parent: outer });
    }
  }),
  make('middleware that does nothing', [], 30, (request) => {
    for (let i = 0; i < 7; i++) request.add({ name: 'middleware', from: i * 0.1, to: i * 0.1 + 0.02 });
  }),
  make('six counts side by side', ['query-per-row'], 100, (request) => {
    for (let i = 0; i < 6; i++)
      request.call(10, 60 + i, sql('postgresql', `SELECT count(*) FROM call WHERE state = ${i}`));
  })
];

/** At least 150 requests, each labelled by what must be said of it. Made; the recorded ones are in `recordings/traces`. */
export const REQUEST_SHAPES: readonly RequestShape[] = [
  ...loops,
  ...repeated,
  ...timeouts,
  ...together,
  ...waits,
  ...failures,
  ...others
];
