import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { createClient, type Client } from '@libsql/client';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openForWriting } from '../db/client';
import { STEPS } from '$lib/roll-up-steps';
import { Writer, type WriterOptions } from './writer';

let folder: string;
let url: string;
let options: WriterOptions;
const MIGRATIONS = path.resolve(import.meta.dirname, '../../../../drizzle');
const open = async (): Promise<Writer> => Writer.open(options, await openForWriting(url, MIGRATIONS));
let writer: Writer;
let client: Client;

beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-writer-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  options = {
    keepLiteralsOf: [],
    maxInflatedBytes: 1_000_000,
    sourceFolders: [],
    settleMs: 1000,
    maxTraceSpans: 100_000,
    markFile: '',
    retention: { days: 100_000, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 }
  };
  writer = await open();
  client = createClient({ url });
});
afterEach(async () => {
  await writer.close();
  client.close();
  await rm(folder, { recursive: true, force: true });
});

const T0 = 1_700_000_000_000;
interface Shape {
  id: string;
  parent?: string;
  trace?: string;
  kind?: number;
  from: number;
  to: number;
  sql?: string;
  service?: string;
}

function batch(...shapes: Shape[]): Uint8Array {
  const resourceSpans = shapes.map(
    ({ id, parent, trace = '1', kind = 1, from, to, sql, service = 'berths' }) => ({
      resource: {
        attributes: [
          ['service.name', service],
          ['host.name', 'quay-2'],
          ['service.version', '7.3']
        ].map(([key, stringValue]) => ({ key, value: { stringValue } }))
      },
      scopeSpans: [
        {
          spans: [
            {
              traceId: trace.padStart(32, 'a'),
              spanId: id.padStart(16, 'b'),
              parentSpanId: parent?.padStart(16, 'b') ?? '',
              name: `work ${id}`,
              kind,
              startTimeUnixNano: `${T0 + from}000000`,
              endTimeUnixNano: `${T0 + to}000000`,
              attributes: sql
                ? [
                    { key: 'db.system.name', value: { stringValue: 'sqlite' } },
                    { key: 'db.query.text', value: { stringValue: sql } }
                  ]
                : []
            }
          ]
        }
      ]
    })
  );
  return new TextEncoder().encode(JSON.stringify({ resourceSpans }));
}

const one = async (sql: string): Promise<unknown> => (await client.execute(sql)).rows[0][0];
const settle = (): Promise<number> => writer.settle(Date.now(), true);
/** What the roll-ups say, at every step and under every margin, must be what the requests say, to the nanosecond. */
async function expectRollupsToAgree(): Promise<void> {
  const sums =
    'coalesce(sum(total_ns), 0), coalesce(sum(exclusive_ns), 0), coalesce(sum(in_database), 0), coalesce(sum(ex_database), 0), coalesce(sum(count), 0), coalesce(sum(call_count), 0)';
  const kept = await client.execute(
    `SELECT ${sums.replace('sum(total_ns)', 'sum(duration_ns)').replace('sum(count)', 'sum(1)')} FROM requests`
  );
  for (const step of STEPS)
    for (const margin of [0, 1, 2]) {
      const rolled = await client.execute({
        sql: `SELECT ${sums} FROM rollups WHERE step = ? AND margin = ?`,
        args: [step, margin]
      });
      expect(Array.from(rolled.rows[0])).toEqual(Array.from(kept.rows[0]));
    }
  const booked = await client.execute(
    'SELECT step, sum(booked_ns), sum(calls) FROM call_rollups GROUP BY step ORDER BY step'
  );
  const parts = await client.execute(
    'SELECT coalesce(sum(p.value->>4), 0), coalesce(sum(p.value->>2), 0) FROM request_parts r, json_each(r.parts) p'
  );
  for (const row of booked.rows) expect([row[1], row[2]]).toEqual(Array.from(parts.rows[0]));
  const found = await client.execute(
    'SELECT step, sum(requests), sum(cost_ns) FROM finding_rollups WHERE margin = 0 GROUP BY step ORDER BY step'
  );
  const findings = await client.execute(
    'SELECT coalesce(sum(is_first), 0), coalesce(sum(cost_ns), 0) FROM findings'
  );
  for (const row of found.rows) expect([row[1], row[2]]).toEqual(Array.from(findings.rows[0]));
  // The parts of a request tile it.
  expect(parts.rows[0][0]).toBe(kept.rows[0][0]);
}

const root: Shape = { id: '1', kind: 2, from: 0, to: 100 };
const call: Shape = {
  id: '2',
  parent: '1',
  kind: 3,
  from: 10,
  to: 70,
  sql: "select * from t where a = 'hush'"
};

describe('Writer', () => {
  it('stores spans before it answers, and books the request when the trace has rested', async () => {
    expect(await writer.ingest(batch(root, call), 'json', false)).toMatchObject({
      spans: 2,
      rejected: [],
      warnings: []
    });
    expect(await one('SELECT count(*) FROM spans')).toBe(2);
    expect(await writer.settle()).toBe(0);
    expect(await writer.settle(performance.now() + 2000)).toBe(1);
    const { rows } = await client.execute(
      'SELECT duration_ns, in_database, in_own_code, call_count FROM requests'
    );
    expect(Array.from(rows[0])).toEqual([100e6, 60e6, 40e6, 1]);
    await expectRollupsToAgree();
  });

  it('stores no literal anywhere in the database', async () => {
    await writer.ingest(batch(root, call), 'json', false);
    await settle();
    for (const table of ['spans', 'call_groups', 'findings', 'requests']) {
      const { rows } = await client.execute(`SELECT * FROM ${table}`);
      expect(JSON.stringify(rows)).not.toContain('hush');
    }
  });

  it('takes a finding back with its request, and finds it again', async () => {
    const long = { ...root, to: 900 };
    await writer.ingest(batch(long), 'json', false);
    await settle();
    expect(await one('SELECT sum(requests) FROM finding_rollups WHERE step = 60 AND margin = 0')).toBe(1);
    await writer.ingest(batch({ ...call, from: 10, to: 890 }), 'json', false);
    await settle();
    expect(
      await one(
        'SELECT u.rule FROM finding_rollups f JOIN finding_subjects u ON u.id = f.subject_id WHERE f.step = 60 AND f.margin = 1 AND f.requests > 0'
      )
    ).toBe('one-slow-call');
    await expectRollupsToAgree();
  });

  it('keeps a batch that is sent again once', async () => {
    for (let i = 0; i < 3; i++) await writer.ingest(batch(root, call), 'json', false);
    await settle();
    await writer.ingest(batch(root, call), 'json', false);
    await settle();
    expect(await one('SELECT count(*) FROM spans')).toBe(2);
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
    await expectRollupsToAgree();
  });

  it('books a request again when late spans come, and takes the first booking back', async () => {
    await writer.ingest(batch(root), 'json', false);
    await settle();
    expect(await one('SELECT in_database FROM requests')).toBe(0);
    await writer.ingest(batch(call), 'json', false);
    await settle();
    expect(await one('SELECT in_database FROM requests')).toBe(60e6);
    await expectRollupsToAgree();
  });

  it('corrects the requests when a missing parent comes after all', async () => {
    await writer.ingest(batch({ ...call, parent: '1' }), 'json', false);
    await settle();
    expect(await one('SELECT e.name FROM requests r JOIN endpoints e ON e.id = r.endpoint_id')).toBe(
      '(missing parent)'
    );
    await writer.ingest(batch(root), 'json', false);
    await settle();
    expect(await one('SELECT e.name FROM requests r JOIN endpoints e ON e.id = r.endpoint_id')).toBe(
      'work 1'
    );
    await expectRollupsToAgree();
  });

  it('takes up after a restart what was acknowledged but not yet booked', async () => {
    await writer.ingest(batch(root, call), 'json', false);
    await writer.close();
    writer = await open();
    await settle();
    expect(await one('SELECT in_database FROM requests')).toBe(60e6);
    expect(await one('SELECT count(*) FROM pending_traces')).toBe(0);
    await expectRollupsToAgree();
  });

  it('counts nested requests of one trace once', async () => {
    await writer.ingest(
      batch(
        root,
        { id: '3', parent: '1', kind: 3, from: 20, to: 80 },
        { id: '4', parent: '3', kind: 2, from: 30, to: 60, service: 'tides' }
      ),
      'json',
      false
    );
    await settle();
    const total = 'FROM rollups WHERE step = 1440 AND margin = 2';
    expect(await one(`SELECT sum(exclusive_ns) ${total}`)).toBe(100e6);
    expect(await one(`SELECT sum(total_ns) ${total}`)).toBe(130e6);
    await expectRollupsToAgree();
  });

  it('moves a recording in time', async () => {
    await writer.ingest(batch(root), 'json', false, 5_000_000);
    expect(await one('SELECT start_us FROM spans')).toBe(T0 * 1000 + 5_000_000);
  });

  it('reads gzip', async () => {
    expect(await writer.ingest(gzipSync(batch(root)), 'json', true)).toMatchObject({ spans: 1 });
  });

  it.each<[string, () => Uint8Array, boolean]>([
    ['gzip-truncated', () => gzipSync(batch(root)).subarray(0, 60), true],
    ['gzip-damaged', () => batch(root), true],
    ['inflated-too-large', () => gzipSync(new Uint8Array(3_000_000)), true],
    ['json-damaged', () => new TextEncoder().encode('{"resourceSpans": ['), false],
    ['not-otlp', () => new TextEncoder().encode('{}'), false]
  ])('refuses %s in words and leaves everything else whole', async (code, body, gzip) => {
    await writer.ingest(batch(root, call), 'json', false);
    await expect(writer.ingest(body(), 'json', gzip)).rejects.toMatchObject({ code });
    await settle();
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
    await expectRollupsToAgree();
  });

  it('books the others where one trace cannot be booked, and says which', async () => {
    await writer.ingest(batch(root, call), 'json', false);
    await writer.ingest(batch({ ...root, trace: '2' }), 'json', false);
    // Damaged in the store: attributes that are no JSON. A restart reads both traces back.
    await client.execute("UPDATE spans SET attributes = 'x' WHERE trace_id LIKE '%2'");
    await writer.close();
    writer = await open();
    const faults: string[] = [];
    writer.onFault = (message) => faults.push(message);
    await settle();
    expect(faults).toMatchObject([
      expect.stringMatching(/^Trace a+2 was set aside: It cannot be accounted for/)
    ]);
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
    expect(await one('SELECT count(*) FROM pending_traces')).toBe(0);
    expect(await one('SELECT count(*) FROM set_aside WHERE aside = 1')).toBe(1);
    await expectRollupsToAgree();
  });

  it('keeps the names of a booking that could not be stored for the next try', async () => {
    await writer.ingest(batch(root), 'json', false);
    await client.execute('ALTER TABLE findings RENAME TO findings_away');
    await client.execute('ALTER TABLE requests RENAME TO requests_away');
    await expect(settle()).rejects.toThrow();
    await client.execute('ALTER TABLE requests_away RENAME TO requests');
    await client.execute('ALTER TABLE findings_away RENAME TO findings');
    await settle();
    expect(await one('SELECT e.name FROM requests r JOIN endpoints e ON e.id = r.endpoint_id')).toBe(
      'work 1'
    );
    await expectRollupsToAgree();
  });

  it('answers with an error while the database cannot be written, keeps the names it had not stored, and goes on after', async () => {
    await client.execute('ALTER TABLE spans RENAME TO spans_away');
    await expect(writer.ingest(batch(root), 'json', false)).rejects.toThrow(/spans/);
    await client.execute('ALTER TABLE spans_away RENAME TO spans');
    expect(await writer.ingest(batch(root, call), 'json', false)).toMatchObject({ spans: 2 });
    await settle();
    expect(await one('SELECT s.name FROM requests r JOIN services s ON s.id = r.service_id')).toBe('berths');
    await expectRollupsToAgree();
  });
});
