import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { traceOf } from '@tromix/core/load/trace-ids';
import { openForWriting } from '../db/client';
import { Writer } from './writer';

const MIGRATIONS = path.resolve(import.meta.dirname, '../../../../drizzle');
const KEY = '00c0ffee00000001';
const AT_MS = 1_795_000_020_000;

let folder: string;
let writer: Writer;
let client: Client;

beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-runs-'));
  const url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await Writer.open(
    {
      keepLiteralsOf: [],
      maxInflatedBytes: 1e9,
      sourceFolders: [],
      settleMs: 0,
      maxTraceSpans: 100_000,
      markFile: '',
      retention: { days: 36_500, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 }
    },
    await openForWriting(url, MIGRATIONS)
  );
  client = createClient({ url });
});
afterEach(async () => {
  await writer.close();
  client.close();
  await rm(folder, { recursive: true, force: true });
});

const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
/** A request to a service with a call of a database in it; with the span of a driver around it where there is one. */
function trace(traceId: string, driven = false): object[] {
  const span = (
    spanId: number,
    parent: number,
    kind: number,
    ms: number,
    attributes: object[] = []
  ): object => ({
    traceId,
    spanId: spanId.toString(16).padStart(16, '0'),
    ...(parent > 0 ? { parentSpanId: parent.toString(16).padStart(16, '0') } : {}),
    name: 'GET',
    kind,
    startTimeUnixNano: `${AT_MS}000000`,
    endTimeUnixNano: `${AT_MS + ms}000000`,
    attributes
  });
  const sql = [text('db.system.name', 'sqlite'), text('db.query.text', 'select * from quay where id = 7')];
  const served = [span(2, 1, 2, 50, [text('http.route', '/quays')]), span(3, 2, 3, 20, sql)];
  return [
    {
      resource: { attributes: [text('service.name', 'berths')] },
      scopeSpans: [{ spans: served }]
    },
    ...(driven
      ? [
          {
            resource: { attributes: [text('service.name', 'load run'), text('tromix.load.run.key', KEY)] },
            scopeSpans: [{ spans: [span(1, 0, 3, 60)] }]
          }
        ]
      : [])
  ];
}
const ingest = async (...traces: object[][]): Promise<void> => {
  const body = new TextEncoder().encode(JSON.stringify({ resourceSpans: traces.flat() }));
  await writer.ingest(body, 'json', false);
  await writer.settle(undefined, true);
};
const putRun = (): Promise<void> =>
  writer.putLoadRun({ key: KEY, name: 'quays', state: 'running', startedAtUs: AT_MS * 1000, plan: '{}' });
const numbers = async (sql: string): Promise<unknown[]> =>
  (await client.execute(sql)).rows.map((row) => Object.values(row).map(Number));

/** Requests, and what is summed up of everything and of the run: by table. */
const sums = async (): Promise<unknown> => ({
  requests: await numbers('SELECT run, count(*) FROM requests GROUP BY run ORDER BY run'),
  rollups: await numbers(
    'SELECT margin, sum(count) FROM rollups WHERE step = 1 GROUP BY margin ORDER BY margin'
  ),
  calls: await numbers(
    "SELECT margin, sum(calls) FROM call_rollups c JOIN call_groups g ON g.id = c.group_id WHERE g.kind = 'database' AND step = 1 GROUP BY margin ORDER BY margin"
  )
});
const BOTH = {
  requests: [
    [0, 1],
    [1, 2]
  ],
  rollups: [
    [-1, 2],
    [0, 3],
    [1, 3],
    [2, 3]
  ],
  calls: [
    [-1, 2],
    [0, 3]
  ]
};
const OTHER = '5ea00000000000000000000000000001';

describe('what a load run caused', () => {
  it('is summed up by itself beside everything, where the run is known first', async () => {
    await putRun();
    await ingest(trace(traceOf(KEY, 0).traceId, true), trace(traceOf(KEY, 1).traceId), trace(OTHER));
    expect(await sums()).toEqual(BOTH);
  });

  it('and just so where the run becomes known after its traces', async () => {
    await ingest(trace(traceOf(KEY, 0).traceId, true), trace(traceOf(KEY, 1).traceId), trace(OTHER));
    await putRun();
    await writer.settle(undefined, true);
    expect(await sums()).toEqual(BOTH);
  });

  it('stays so where spans come late, and a trace is booked again', async () => {
    await putRun();
    const [served, driver] = trace(traceOf(KEY, 0).traceId, true);
    await ingest([served], trace(traceOf(KEY, 1).traceId), trace(OTHER));
    await ingest([driver]);
    expect(await sums()).toEqual(BOTH);
  });

  it('counts the driver’s own spans neither as requests nor as background work', async () => {
    await putRun();
    await ingest(trace(traceOf(KEY, 0).traceId, true));
    expect(await numbers('SELECT count(*) FROM background_work')).toEqual([[0]]);
    expect(
      (await client.execute('SELECT name FROM services ORDER BY name')).rows.map(({ name }) => name)
    ).toContain('berths');
    expect(writer.senders()).toEqual([]);
  });

  it('keeps its number: a row that is put again changes only what it names', async () => {
    await putRun();
    await writer.putLoadRun({
      key: KEY,
      name: 'quays',
      state: 'done',
      evidenceId: 'abc',
      startedAtUs: AT_MS * 1000,
      endUs: 5,
      plan: '{}'
    });
    const { rows } = await client.execute('SELECT id, state, evidence_id, recordings FROM load_runs');
    expect(rows.map((row) => Object.values(row))).toEqual([[1, 'done', 'abc', '[]']]);
  });
});
