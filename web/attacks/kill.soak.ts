import { spawn, type ChildProcess } from 'node:child_process';
import { readdirSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { readFileSync } from 'node:fs';
import { createClient } from '@libsql/client';
import { afterEach, expect, it } from 'vitest';
import {
  makeFolder,
  removeFolder,
  startServer,
  tracesOf,
  type AttackedServer,
  type SentSpan
} from './server';

/** kill -9 at random moments of whatever the server does: nothing acknowledged is lost, nothing is counted twice, nothing half is left. */
const KILLS = Number(process.env.KILLS ?? 40);
let folder = '';
let server: AttackedServer | undefined;
let target: ChildProcess | undefined;
afterEach(async () => {
  target?.kill('SIGKILL');
  await server?.stop('SIGKILL');
  if (folder) removeFolder(folder);
});
const snapshot = gunzipSync(
  readFileSync(path.resolve(import.meta.dirname, '../../workload/recordings/heap-tides-1.heapsnapshot.gz'))
);
const random = (most: number): number => Math.floor(Math.random() * most);

it.each([
  ['at a settle time of 50 ms', 50, 0],
  ['at a settle time of 150 ms', 150, 0],
  ['at a settle time of 1500 ms', 1500, 0],
  ['while the oldest traces are removed for want of room', 50, 3_000_000]
])('%s', async (_, settleMs, maxBytes) => {
  folder = makeFolder();
  target = spawn(
    process.execPath,
    ['--inspect=127.0.0.1:0', '-e', 'setInterval(() => { for (let i = 0; i < 1e5; i++) Math.sqrt(i); }, 5)'],
    { stdio: ['ignore', 'ignore', 'pipe'] }
  );
  const inspector: number = await new Promise((resolve) =>
    target!.stderr!.on('data', (part: Buffer) => {
      const found = /ws:\/\/127\.0\.0\.1:(\d+)\//.exec(part.toString());
      if (found) resolve(Number(found[1]));
    })
  );
  const env = {
    TROMIX_SETTLE_MS: String(settleMs),
    TROMIX_INSPECT: `127.0.0.1:${inspector}`,
    TROMIX_KEEP_DAYS: '2',
    TROMIX_GRACE_MINUTES: '0',
    ...(maxBytes > 0 ? { TROMIX_MAX_DB_BYTES: String(maxBytes) } : {})
  };
  const acknowledged = new Set<string>();
  let trace = 1;
  let span = 1;
  for (let kill = 0; kill < KILLS; kill++) {
    const one = (server = await startServer(folder, env));
    let going = true;
    const quiet = (work: () => Promise<unknown>): Promise<void> =>
      work().then(
        () => undefined,
        () => undefined
      );
    const sendSpans = async (): Promise<void> => {
      while (going)
        await quiet(async () => {
          // Some of one trace, late spans of earlier ones, and traces of their own.
          const list: SentSpan[] = Array.from({ length: 20 + random(200) }, () => ({
            trace: random(3) === 0 && trace > 5 ? trace - 1 - random(5) : (trace += random(2)),
            span: span++
          }));
          const { status } = await one.send('traces', tracesOf(list));
          if (status === 200) for (const sent of list) acknowledged.add(`${sent.trace} ${sent.span}`);
        });
    };
    const others = async (): Promise<void> => {
      while (going) {
        await quiet(() => one.upload(`main;f${random(1e9)};g ${1 + random(9)}\nmain;h 2\n`));
        // A dump is indexed when it is stored; it is another one each time.
        if (random(4) === 0)
          await quiet(() =>
            one.upload(Buffer.from(snapshot.toString().replace('"tides', `"tides${random(1e6)}`)))
          );
        await quiet(() =>
          one.ask('/api/recordings', {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({
              address: `127.0.0.1:${inspector}`,
              kind: random(2) ? 'cpu' : 'heap',
              seconds: 1,
              interval: 1000
            })
          })
        );
        // Older than is kept: swept a minute later, or at once when it comes again.
        await quiet(() =>
          one.send(
            'traces',
            tracesOf([
              {
                trace: 5_000_000 + random(50),
                span: 1,
                start: BigInt(Date.now() - 5 * 86_400_000) * 1_000_000n
              }
            ])
          )
        );
        await new Promise((resolve) => setTimeout(resolve, random(100)));
      }
    };
    const running = [sendSpans(), sendSpans(), others()];
    await new Promise((resolve) => setTimeout(resolve, 100 + random(2200)));
    await one.stop('SIGKILL');
    going = false;
    await Promise.all(running);
  }
  server = await startServer(folder, { ...env, TROMIX_SETTLE_MS: '50' });
  const database = createClient({ url: `file:${path.join(folder, 'tromix.sqlite')}` });
  const count = async (sql: string): Promise<number> => Number((await database.execute(sql)).rows[0][0]);
  for (let wait = 0; wait < 600 && (await count('SELECT count(*) FROM pending_traces')) > 0; wait++)
    await new Promise((resolve) => setTimeout(resolve, 100));
  const stored = await database.execute('SELECT trace_id, span_id FROM spans');
  const there = new Set(
    stored.rows.map(
      ({ trace_id, span_id }) => `${parseInt(String(trace_id), 16)} ${parseInt(String(span_id), 16)}`
    )
  );
  const removedTraces = await database.execute('SELECT hex(trace_id) AS id FROM removed_traces');
  const gone = new Set(removedTraces.rows.map(({ id }) => parseInt(String(id), 16)));
  expect(gone.size > 0).toBe(maxBytes > 0);
  const lost = [...acknowledged].filter((one) => !there.has(one) && !gone.has(Number(one.split(' ')[0])));
  console.log(
    `${KILLS} kills at ${settleMs} ms: ${acknowledged.size} spans acknowledged, ${stored.rows.length} stored`
  );
  expect(lost).toEqual([]);
  expect(await count('SELECT count(*) FROM pending_traces')).toBe(0);
  expect(await count('SELECT count(*) FROM set_aside WHERE aside = 1')).toBe(0);
  // Of every trace all is there or nothing.
  for (const table of ['request_parts', 'findings', 'logs'])
    expect(
      await count(`SELECT count(*) FROM ${table} WHERE trace_id NOT IN (SELECT trace_id FROM requests)`)
    ).toBe(0);
  // Every span is an entry: it has its request, and every request is counted once.
  expect(await count('SELECT count(*) FROM requests')).toBe(await count('SELECT count(*) FROM spans'));
  const counted = await count('SELECT sum(count) FROM rollups WHERE step = 1440 AND margin = 0');
  for (const step of [1, 10, 60, 360])
    expect(await count(`SELECT sum(count) FROM rollups WHERE step = ${step} AND margin = 0`)).toBe(counted);
  const requests = await count('SELECT count(*) FROM requests');
  if (maxBytes === 0) expect(counted).toBe(requests);
  else expect(counted).toBeGreaterThan(requests);
  // Files and rows are the same; nothing half is left.
  const rows = await database.execute("SELECT id FROM evidence WHERE kind <> 'statements'");
  const files = readdirSync(path.join(folder, 'evidence'), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map(({ name }) => name);
  expect(files.sort()).toEqual(rows.rows.map(({ id }) => String(id)).sort());
  expect(await count("SELECT count(*) FROM recordings WHERE state IN ('recording', 'saving')")).toBe(0);
  expect((await database.execute('PRAGMA integrity_check')).rows[0][0]).toBe('ok');
  database.close();
});
