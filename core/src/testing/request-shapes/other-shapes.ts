import type { Rule } from '../../findings/request-rules';
import { SpanKind } from '../../trace/span';
import { resource } from '../spans';
import { http, Request, sql, type Attributes, type RequestShape } from './request';

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

/** Waits, failures, limits, and what else a request may be made of. */
export const OTHER_SHAPES: RequestShape[] = [...timeouts, ...together, ...waits, ...failures, ...others];
