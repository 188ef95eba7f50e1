import type { Rule } from '../../findings/request-rules';
import { CALLS } from './loops';
import { http, Request, sql, type Asked, type RequestShape } from './request';

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
    of: 'full pages, rows recorded',
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

export const REPEATED_CALLS: RequestShape[] = REPEATED.map(
  ({ of, must = [], ask, gap = 2, calls = CALLS }) => {
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
  }
);
