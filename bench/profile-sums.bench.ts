/**
 * Sums of recordings: 1,000 recordings of 30,000 samples opened as one in Chromium, from the click to the picture; and what 30 days of the default plan of ten
 * processes take on the disk.
 * Run: npx tsx --tsconfig bench/tsconfig.json bench/profile-sums.bench.ts   (needs a build; `SCALE=small` takes a tenth)
 */
import { fork, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { chromium } from '@playwright/test';
import { createClient } from '@libsql/client';
import { condense, type ServedRequest } from '../core/src/profile/sums/condense';
import { mergeSlices, type SliceSums } from '../core/src/profile/sums/merge-slices';
import { openForWriting } from '../web/src/lib/server/db/client';
import { Writer } from '../web/src/lib/server/ingest/writer';
import { serviceProfile } from './service-profile';

const ROOT = path.resolve(import.meta.dirname, '..');
const PORT = 4497;
const RECORDINGS = process.env.SCALE === 'small' ? 100 : 1000;
const ROUNDS = 7;
const MINUTE = 60_000;
const PROCESSES = 10;
/** Of these so many are put down, and counted for all: each has stacks of its own. */
const MADE = 2;
const DAYS = 30;

const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-bench-'));
const fileOf = (name: string): string => path.join(folder, `${name}.sqlite`);
const open = async (name: string): Promise<Writer> =>
  Writer.open(
    {
      keepLiteralsOf: [],
      maxInflatedBytes: 1e7,
      sourceFolders: [],
      settleMs: 1000,
      maxTraceSpans: 1000,
      markFile: '',
      retention: { days: 60, maxBytes: 1e12, graceMinutes: 60, logDays: 3, counterDays: 7 }
    },
    await openForWriting(`file:${fileOf(name)}`, path.join(ROOT, 'web/drizzle'))
  );

/** Requests of three endpoints, one after another, 20 ms each. */
const requests = (spanMs: number): ServedRequest[] =>
  Array.from({ length: Math.floor(spanMs / 25) }, (_, i) => ({
    endpoint: 1 + (i % 3),
    fromNs: i * 25e6,
    own: Float64Array.of(i * 25e6, i * 25e6 + 20e6)
  }));

async function fill(writer: Writer, nowMs: number): Promise<void> {
  const begun = performance.now();
  for (let i = 0; i < RECORDINGS; i++)
    await writer.addProfileSums({
      source: i.toString(16).padStart(64, '0'),
      service: 'berths',
      host: `quay-${i % PROCESSES}`,
      release: i % 2 ? '7.3' : '7.2',
      pid: 1 + (i % PROCESSES),
      valueType: 'cpu',
      requests: 0,
      condensed: condense(
        serviceProfile(30_000, 1000),
        Math.round((nowMs - 2 * MINUTE - i * 1500) * 1000),
        requests(30_000)
      )
    });
  console.log(`${RECORDINGS} recordings summed up in ${((performance.now() - begun) / 1000).toFixed(1)} s`);
}

async function pictures(): Promise<void> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--headless', '--no-sandbox', '--disable-gpu']
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const first: number[] = [];
  const took: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    await page.goto(`http://127.0.0.1:${PORT}/profiles?last=1h`);
    await page.waitForTimeout(1000);
    const begun = performance.now();
    await page.evaluate(() =>
      document.querySelector<HTMLAnchorElement>('a[href^="/profiles/scope"]')!.click()
    );
    await page.getByText('Follow the heaviest branch').waitFor({ timeout: 60_000 });
    first.push(performance.now() - begun);
    await page.waitForFunction(
      () => !document.querySelector('aside')?.textContent?.includes('the rest comes'),
      undefined,
      { polling: 'raf' }
    );
    took.push(performance.now() - begun);
  }
  await browser.close();
  const spread = (list: number[]): string => {
    const sorted = list.toSorted((a, b) => a - b);
    return `median ${sorted[sorted.length >> 1].toFixed(0)} ms (${sorted[0].toFixed(0)} to ${sorted.at(-1)!.toFixed(0)})`;
  };
  console.log(
    `${RECORDINGS} recordings of 30,000 samples, from the click: first picture ${spread(first)}, whole ${spread(took)}`
  );
}

/** The plan's slices of one day of ten processes as they are kept by the minute, and of the other days by the hour. */
async function month(nowMs: number): Promise<void> {
  const writer = await open('month');
  const sizeMb = (): number => statSync(fileOf('month')).size / 1e6;
  const empty = sizeMb();
  const slice = (atMs: number): ReturnType<typeof condense> =>
    condense(serviceProfile(1000, 10_000), Math.round(atMs * 1000), requests(10_000));
  const client = createClient({ url: `file:${fileOf('month')}` });
  for (let process = 0; process < MADE; process++)
    for (let minute = 0; minute < 1440; minute++)
      await writer.addProfileSums({
        source: `${process} ${minute}`,
        service: `service-${process}`,
        host: 'quay-1',
        release: '7.3',
        pid: process + 1,
        valueType: 'cpu',
        requests: 0,
        condensed: slice(nowMs - minute * MINUTE)
      });
  await client.execute('PRAGMA wal_checkpoint(TRUNCATE)');
  const day = sizeMb() - empty;
  // Hours: made of what lies there, put down once for each hour of the other days.
  const before = sizeMb();
  for (let process = 0; process < MADE; process++) {
    const { rows } = await client.execute({
      sql: `SELECT p.id, p.start_us, p.length_us, p.span_us, p.samples, p.busy_us, p.idle_us, p.weights, p.service_id, p.host_id, p.release_id FROM profile_slices p
        JOIN services s ON s.id = p.service_id WHERE s.name = ? ORDER BY p.start_us LIMIT 120`,
      args: [`service-${process}`]
    });
    const sums: SliceSums[] = [];
    for (const row of rows) {
      const shares = await client.execute({
        sql: 'SELECT endpoint_id, requests, busy_us, shared_us, weights FROM profile_endpoint_slices WHERE slice_id = ?',
        args: [row[0]]
      });
      sums.push({
        process: '1',
        startUs: Number(row[1]),
        lengthUs: Number(row[2]),
        spanUs: Number(row[3]),
        samples: Number(row[4]),
        busyUs: Number(row[5]),
        idleUs: Number(row[6]),
        weights: new Uint8Array(row[7] as ArrayBuffer),
        endpoints: shares.rows.map((share) => ({
          endpoint: Number(share[0]),
          requests: Number(share[1]),
          busyUs: Number(share[2]),
          sharedUs: Number(share[3]),
          weights: new Uint8Array(share[4] as ArrayBuffer)
        }))
      });
    }
    const merged = mergeSlices(sums);
    const [{ service_id: serviceId, host_id: hostId, release_id: releaseId }] = rows;
    for (let hour = 0; hour < (DAYS - 1) * 24; hour++) {
      const id = 10_000_000 + process * 10_000 + hour;
      await writer.change(
        'putSlicesTogether',
        [id],
        {
          valueType: 'cpu',
          serviceId: Number(serviceId),
          hostId: Number(hostId),
          releaseId: Number(releaseId)
        },
        { ...merged, startUs: Math.round((nowMs - (hour + 25) * 60 * MINUTE) * 1000) }
      );
    }
  }
  await client.execute('PRAGMA wal_checkpoint(TRUNCATE)');
  console.log(
    `the default plan of ${PROCESSES} processes: a day by the minute ${(day * (PROCESSES / MADE)).toFixed(0)} MB, ${DAYS - 1} days by the hour ${((sizeMb() - before) * (PROCESSES / MADE)).toFixed(0)} MB`
  );
  client.close();
  await writer.close();
}

let server: ChildProcess | undefined;
try {
  const nowMs = Date.now();
  if (!process.argv.includes('--pictures')) await month(nowMs);
  const writer = await open('tromix');
  await fill(writer, nowMs);
  await writer.close();
  server = fork(path.join(ROOT, 'web/server.mjs'), {
    env: {
      ...process.env,
      PORT: String(PORT),
      TROMIX_DATA: folder,
      TROMIX_DB: `file:${fileOf('tromix')}`
    },
    stdio: 'ignore'
  });
  for (let waited = 0; waited < 200; waited++) {
    if (
      await fetch(`http://127.0.0.1:${PORT}/`)
        .then((r) => r.ok)
        .catch(() => false)
    )
      break;
    await new Promise((resolve) => setTimeout(resolve, 100));
  }
  await pictures();
} finally {
  server?.kill();
  rmSync(folder, { recursive: true, force: true });
}
process.exit(0);
