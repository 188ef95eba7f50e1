// One file though it is long: every test here attacks the same writer through the same few helpers.
import { writeFileSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { wellFormed } from '@tromix/core/text/well-formed';
import { LAST_US } from '@tromix/core/trace/time-range';
import { spansFrom, type StoredSpans } from '$lib/stored-spans';
import { openForWriting } from '../db/client';
import { jsonValue, LocalDatabase, type Database } from '../db/database';
import { ReadingMark, leftMark } from './reading-mark';
import { spansSelect } from './span-rows';
import { SteadyClock, TRUSTED_AFTER_MS } from './steady-clock';
import { loadResources } from './stored-spans';
import type { Accepted } from './accepted';
import { Writer, type WriterOptions } from './writer';

const MIGRATIONS = path.resolve(import.meta.dirname, '../../../../drizzle');
let folder: string;
let url: string;
let options: WriterOptions;
let writer: Writer;
let client: Client;
let database: Database;

async function open(): Promise<void> {
  database = await openForWriting(url, MIGRATIONS);
  const left = leftMark(options.markFile);
  writer = await Writer.open(options, database, left);
}
beforeEach(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-guarding-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  options = {
    keepLiteralsOf: [],
    maxInflatedBytes: 1e8,
    sourceFolders: [],
    settleMs: 0,
    maxTraceSpans: 1000,
    markFile: path.join(folder, 'reading'),
    retention: { days: 30, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 }
  };
  await open();
  client = createClient({ url });
});
afterEach(async () => {
  await writer.close();
  client.close();
  await rm(folder, { recursive: true, force: true });
});
const reopen = async (): Promise<void> => {
  await writer.close();
  await open();
};
const one = async (sql: string): Promise<unknown> => (await client.execute(sql)).rows[0]?.[0];

const NOW_MS = Date.now();
interface SpanText {
  trace?: number;
  span?: number;
  parent?: number;
  startNs?: string;
  endNs?: string;
  name?: string;
  status?: string;
  host?: string;
  attributes?: Record<string, string>;
}
const nano = (ms: number): string => `${Math.round(ms)}000000`;
const hex = (value: number, length: number): string => value.toString(16).padStart(length, '0');
const pairs = (attributes: Record<string, string>): object[] =>
  Object.entries(attributes).map(([key, stringValue]) => ({ key, value: { stringValue } }));

function send(...spans: SpanText[]): Promise<Accepted> {
  const resourceSpans = spans.map(
    ({
      trace = 1,
      span = 1,
      parent,
      startNs = nano(NOW_MS),
      endNs = nano(NOW_MS + 50),
      name = 'work',
      ...rest
    }) => ({
      resource: { attributes: pairs({ 'service.name': 'berths', 'host.name': rest.host ?? 'quay-2' }) },
      scopeSpans: [
        {
          spans: [
            {
              traceId: hex(trace, 32),
              spanId: hex(span, 16),
              parentSpanId: parent === undefined ? '' : hex(parent, 16),
              kind: 2,
              name,
              startTimeUnixNano: startNs,
              endTimeUnixNano: endNs,
              status: { code: 2, message: rest.status ?? '' },
              attributes: pairs(rest.attributes ?? {}),
              events: [{ name, timeUnixNano: startNs, attributes: pairs(rest.attributes ?? {}) }]
            }
          ]
        }
      ]
    })
  );
  return writer.ingest(new TextEncoder().encode(JSON.stringify({ resourceSpans })), 'json', false);
}
const settle = (): Promise<number> => writer.settle(undefined, true);
async function stored(trace: number): Promise<ReturnType<typeof spansFrom>> {
  const found = (await jsonValue(database, spansSelect('trace_id = ?'), [hex(trace, 32)])) as StoredSpans;
  return spansFrom(found, await loadResources(database));
}

describe('text of any kind', () => {
  /** Any UTF-16, halves of pairs and U+0000 among it; nothing that would be masked. */
  const text = fc
    .array(
      fc.constantFrom(
        '\ud800',
        '\udfff',
        '\u0000',
        '⚓',
        '\u{1f6a2}',
        'q',
        ' ',
        '\n',
        '\\',
        '\ufffd',
        '\u202e'
      ),
      {
        minLength: 1,
        maxLength: 8
      }
    )
    .map((parts) => parts.join(''));

  it(
    'survives the way in, the store, a restart and the way out, as far as it is text',
    { timeout: 60_000 },
    async () => {
      let trace = 0;
      await fc.assert(
        fc.asyncProperty(text, text, text, async (name, value, host) => {
          trace++;
          await send({ trace, name, status: value, host, attributes: { [name]: value, path: value } });
          await settle();
          const [span] = await stored(trace);
          expect(span).toMatchObject({ name: wellFormed(name), statusMessage: wellFormed(value) });
          expect(span.resource.host).toBe(wellFormed(host));
          expect(span.attributes.get('path')).toBe(wellFormed(value));
          expect(span.events[0].name).toBe(wellFormed(name));
        }),
        { numRuns: 40 }
      );
      await reopen();
      // Booked anew, with everything read back.
      await client.execute('INSERT INTO pending_traces SELECT DISTINCT trace_id, 1 FROM spans');
      await reopen();
      expect(await settle()).toBe(trace);
      expect(await one('SELECT count(*) FROM set_aside')).toBe(0);
    }
  );

  it('is cut between characters, never within one', async () => {
    await send({
      name: `${'a'.repeat(16_383)}\u{1f6a2}`,
      attributes: { long: `${'b'.repeat(16_383)}\u{1f6a2}` }
    });
    const [span] = await stored(1);
    expect(span.name).toBe('a'.repeat(16_383));
    expect(span.attributes.get('long')).toBe('b'.repeat(16_383));
  });

  it('that an earlier version stored as no text at all holds up neither a start nor a page', async () => {
    await send({ name: 'honest' });
    await settle();
    // What JSON taken apart by SQLite made of half a character: bytes that are no UTF-8.
    const bad = `(json_extract('["x\\ud800y"]', '$[0]'))`;
    await writer.close();
    await client.execute(`UPDATE spans SET name = ${bad}, status_message = ${bad}`);
    await client.execute(`INSERT INTO services (id, name) VALUES (77, ${bad})`);
    await client.execute(`INSERT INTO attribute_values (id, name, value) VALUES (77, 'x', ${bad})`);
    await client.execute("DELETE FROM settings WHERE key = 'rows-repaired'");
    await client.execute('INSERT INTO pending_traces SELECT DISTINCT trace_id, 1 FROM spans');
    await open();
    await settle();
    expect((await stored(1))[0].name).toBe('(unreadable text)');
    expect(await one('SELECT name FROM services WHERE id = 77')).toBe('(unreadable text 77)');
    await send({ trace: 2, host: 'other' });
    expect(await settle()).toBe(1);
  });
});

describe('times', () => {
  it.each([
    ['2^64 − 1', '18446744073709551615'],
    ['2^63', '9223372036854775808'],
    ['beyond 2^53 µs', '9007199254740993000'],
    ['the year 2200', `${LAST_US}000`]
  ])('of %s are counted and worded, and nothing else is lost', async (_, startNs) => {
    const { spans, rejected } = await send({ span: 1, startNs, endNs: startNs }, { span: 2 });
    expect(spans).toBe(1);
    expect(rejected).toEqual([{ reason: 'start time is outside the years 1970 to 2200', count: 1 }]);
    await settle();
    await reopen();
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
  });

  it('of an end that is none, and spans of years, are rejected as such', async () => {
    const { rejected } = await send(
      { span: 1, endNs: '18446744073709551615' },
      { span: 2, startNs: nano(NOW_MS - 200 * 86_400_000), endNs: nano(NOW_MS) }
    );
    expect(rejected.map(({ reason }) => reason)).toEqual([
      'end time is outside the years 1970 to 2200',
      'it lasts longer than 100 days'
    ]);
  });

  it('that an earlier version took in hold up neither a start nor a sweep', async () => {
    await send({});
    await settle();
    await writer.close();
    await client.execute("DELETE FROM settings WHERE key = 'rows-repaired'");
    for (const sql of [
      "INSERT INTO spans SELECT 'ff', span_id, parent_id, resource_id, 18446744073709551, start_ns, duration_ns, kind, name, status, status_message, call_group_id, literals, rows, origin, attributes, events FROM spans",
      'UPDATE releases SET first_us = 9223372036854775807',
      'UPDATE resources SET first_us = 9223372036854775807',
      "INSERT INTO pending_traces VALUES ('ff', 1)"
    ])
      await client.execute(sql);
    await open();
    await settle();
    await writer.sweep(NOW_MS);
    await send({ trace: 3 });
    expect(await settle()).toBe(1);
  });
});

describe('names without end', () => {
  it(
    'of hosts, services, releases and processes become so many rows and no more',
    { timeout: 60_000 },
    async () => {
      const list = (from: number): object => ({
        resourceSpans: Array.from({ length: 2000 }, (_, i) => ({
          resource: {
            attributes: pairs({
              'service.name': `s${from + i}`,
              'host.name': `h${from + i}`,
              'service.version': `v${from + i}`
            })
          },
          scopeSpans: [
            {
              spans: [
                {
                  traceId: hex(from + i + 1, 32),
                  spanId: hex(1, 16),
                  kind: 2,
                  name: 'work',
                  startTimeUnixNano: nano(NOW_MS),
                  endTimeUnixNano: nano(NOW_MS + 1)
                }
              ]
            }
          ]
        }))
      });
      for (let from = 0; from < 8000; from += 2000)
        await writer.ingest(new TextEncoder().encode(JSON.stringify(list(from))), 'json', false);
      await settle();
      expect(await one('SELECT count(*) FROM services')).toBe(1001);
      expect(await one('SELECT count(*) FROM hosts')).toBe(5001);
      expect(await one('SELECT count(*) FROM releases')).toBeLessThan(2100);
      expect(await one('SELECT count(*) FROM requests')).toBe(8000);
      // What was taken together is found again after a restart.
      await reopen();
      await send({ trace: 9001, host: 'h7999' });
      expect(await one('SELECT count(*) FROM hosts')).toBe(5001);
    }
  );
});

describe('what ends its thread', () => {
  it('is set aside after two tries, is not tried again by itself, and again when somebody says so', async () => {
    await send({ trace: 5 });
    await send({ trace: 6 });
    for (const aside of [0, 1]) {
      // The thread dies within a trace: the mark is left as it stands then.
      const mark = new ReadingMark(options.markFile);
      await writer.close();
      expect(() =>
        mark.during('trace', hex(5, 32), () => {
          writeMark(hex(5, 32));
          throw new Error('out of memory');
        })
      ).toThrow();
      writeMark(hex(5, 32));
      await open();
      expect(await one("SELECT aside FROM set_aside WHERE kind = 'trace'")).toBe(aside);
    }
    await settle();
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
    expect(await one('SELECT count(*) FROM pending_traces')).toBe(0);
    // Late spans of it are stored, and change nothing of that.
    await send({ trace: 5, span: 2, parent: 1 });
    await settle();
    await reopen();
    await settle();
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
    expect(await stored(5)).toHaveLength(2);
    await writer.retry('trace', hex(5, 32));
    await settle();
    expect(await one('SELECT count(*) FROM requests')).toBe(3);
    expect(await one('SELECT count(*) FROM set_aside')).toBe(0);
  });

  it('as a batch is refused in words at the third time', async () => {
    const body = new TextEncoder().encode('{"resourceSpans":[]}');
    const { nameOf } = await import('./body');
    for (let i = 0; i < 2; i++) {
      await writer.close();
      writeMark(nameOf(body), 'batch');
      await open();
    }
    await expect(writer.ingest(body, 'json', false)).rejects.toMatchObject({ code: 'set-aside' });
    await writer.ingest(new TextEncoder().encode('{"resourceSpans": []}'), 'json', false);
  });

  it('or is larger than may be, is named with the reason, and others go on', async () => {
    await send(
      ...Array.from({ length: 1001 }, (_, i) => ({ trace: 7, span: i + 1, parent: i || undefined }))
    );
    await send({ trace: 8 });
    await settle();
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
    expect(String(await one('SELECT reason FROM set_aside'))).toContain('TROMIX_MAX_TRACE_SPANS');
    expect(await stored(7)).toHaveLength(1001);
  });

  const writeMark = (id: string, kind = 'trace'): void => {
    const mark = new ReadingMark('');
    mark.close();
    // As the thread would have left it: written, and not wiped any more.
    writeFileSync(options.markFile, `${kind} ${id}`.padEnd(80));
  };
});

describe('marks of pending traces', () => {
  it('stay whenever spans come between the reading of a trace and its booking', async () => {
    // Slices, settles and restarts in any order: in the end nothing is stored that has no request, and no mark is left.
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.record({ trace: fc.integer({ min: 100, max: 104 }), settle: fc.boolean() }), {
          minLength: 5,
          maxLength: 40
        }),
        async (steps) => {
          let span = Math.floor(Math.random() * 1e9);
          const running: Promise<unknown>[] = [];
          for (const step of steps) {
            running.push(send({ trace: step.trace, span: span++ }));
            if (step.settle) running.push(writer.settle(undefined, true));
          }
          await Promise.all(running);
          await settle();
          expect(await one('SELECT count(*) FROM spans')).toBe(await one('SELECT count(*) FROM requests'));
          expect(await one('SELECT count(*) FROM pending_traces')).toBe(0);
          const total = await one('SELECT sum(count) FROM rollups WHERE step = 1 AND margin = 0');
          expect(total).toBe(await one('SELECT count(*) FROM requests'));
        }
      ),
      { numRuns: 30 }
    );
  });

  it('that were lost are found at the start: every stored trace gets its requests', async () => {
    for (let trace = 1; trace <= 2500; trace += 500)
      await send(...Array.from({ length: 500 }, (_, i) => ({ trace: trace + i })));
    await settle();
    await client.execute(
      'DELETE FROM requests WHERE trace_id > (SELECT trace_id FROM requests ORDER BY trace_id LIMIT 1 OFFSET 2391)'
    );
    await client.execute('DELETE FROM pending_traces');
    await reopen();
    expect(await writer.findForgotten()).toBe(108);
    await settle();
    expect(await one('SELECT count(*) FROM requests')).toBe(2500);
    expect(await writer.findForgotten()).toBe(0);
  });
});

describe('clocks', () => {
  it('set back by an hour hold up no booking', async () => {
    const real = Date.now;
    try {
      await send({ trace: 1 });
      Date.now = () => real() - 3_600_000;
      await send({ trace: 2 });
      await new Promise((resolve) => setTimeout(resolve, 150));
      expect(await writer.settle()).toBe(2);
    } finally {
      Date.now = real;
    }
  });

  it('that jump are not trusted until they have gone on evenly for a while', () => {
    const minute = 60_000;
    const clock = new SteadyClock(0, 0);
    expect(clock.trusts(minute, minute)).toBe(false);
    expect(clock.trusts(TRUSTED_AFTER_MS, TRUSTED_AFTER_MS)).toBe(true);
    const days = 40 * 86_400_000;
    let at = TRUSTED_AFTER_MS + minute;
    // 40 days ahead for one sweep, and back.
    expect(clock.trusts(at + days, at)).toBe(false);
    at += minute;
    expect(clock.trusts(at, at)).toBe(false);
    expect(clock.trusts(at + TRUSTED_AFTER_MS, at + TRUSTED_AFTER_MS)).toBe(true);
  });

  it('that are not trusted remove nothing', async () => {
    await send({ startNs: nano(NOW_MS - 86_400_000), endNs: nano(NOW_MS - 86_400_000 + 5) });
    await settle();
    expect(await writer.sweep(NOW_MS + 40 * 86_400_000, false)).toBe(0);
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
    expect(await one('SELECT count(*) FROM rollups')).toBeGreaterThan(0);
  });
});

describe('traces that come old', () => {
  const OLD_MS = NOW_MS - 45 * 86_400_000;
  const old = { startNs: nano(OLD_MS), endNs: nano(OLD_MS + 5) };

  it('are said to be, and stay for the grace time', async () => {
    const accepted = await send({ trace: 1, ...old }, { trace: 2 });
    expect(accepted.old).toMatchObject({ traces: 1 });
    expect(accepted.warnings).toEqual([expect.objectContaining({ code: 'older-than-kept', count: 1 })]);
    await settle();
    expect(await writer.sweep(NOW_MS)).toBe(0);
    expect(await writer.sweep(Date.now() + 61 * 60_000)).toBe(1);
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
  });

  it('stay for good where somebody keeps them', async () => {
    const { old: told } = await send({ trace: 1, ...old });
    await settle();
    await writer.change('keepOldTraces', told!.source);
    expect(await writer.sweep(Date.now() + 5 * 86_400_000)).toBe(0);
    expect(await one('SELECT count(*) FROM requests')).toBe(1);
  });

  it('sent again after they were removed are shown, and never counted twice', async () => {
    const counted = (): Promise<unknown> =>
      one('SELECT sum(count) FROM rollups WHERE step = 1440 AND margin = 0');
    await send({ trace: 1, ...old });
    await settle();
    expect(await counted()).toBe(1);
    for (let again = 0; again < 2; again++) {
      await writer.sweep(Date.now() + 61 * 60_000);
      expect(await one('SELECT count(*) FROM requests')).toBe(0);
      await send({ trace: 1, ...old });
      await settle();
      // A late span books it once more.
      await send({ trace: 1, span: 2, parent: 1, ...old });
      await settle();
      expect(await one('SELECT count(*) FROM requests')).toBe(2);
      expect(await counted()).toBe(1);
      expect(await one('SELECT count(*) FROM finding_rollups WHERE requests < 0')).toBe(0);
    }
  });
});

describe('two writers of one database', () => {
  it('give no number to two names, and none of their spans another service', async () => {
    const other = await Writer.open(
      { ...options, markFile: '' },
      new LocalDatabase(createClient({ url, intMode: 'bigint' }))
    );
    const batch = (name: string, trace: number): Uint8Array =>
      new TextEncoder().encode(
        JSON.stringify({
          resourceSpans: [
            {
              resource: { attributes: pairs({ 'service.name': name, 'host.name': `${name}-host` }) },
              scopeSpans: [
                {
                  spans: [
                    {
                      traceId: hex(trace, 32),
                      spanId: hex(1, 16),
                      kind: 2,
                      name: `serve ${name}`,
                      startTimeUnixNano: nano(NOW_MS),
                      endTimeUnixNano: nano(NOW_MS + 1)
                    }
                  ]
                }
              ]
            }
          ]
        })
      );
    for (let i = 1; i <= 20; i++) {
      await writer.ingest(batch(`north ${i}`, i * 2), 'json', false);
      await other.ingest(batch(`south ${i}`, i * 2 + 1), 'json', false);
      // Both know this one under the same number.
      await writer.ingest(batch('both', 1000 + i * 2), 'json', false);
      await other.ingest(batch('both', 1001 + i * 2), 'json', false);
    }
    await settle();
    await other.settle(undefined, true);
    const wrong = await one(
      `SELECT count(*) FROM requests r JOIN services s ON s.id = r.service_id JOIN endpoints e ON e.id = r.endpoint_id
        WHERE e.name <> 'serve ' || s.name`
    );
    expect(wrong).toBe(0);
    expect(await one("SELECT count(*) FROM services WHERE name = 'both'")).toBe(1);
    expect(await one('SELECT count(*) FROM requests')).toBe(80);
    await other.close();
  });
});
