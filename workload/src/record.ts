import { mkdir, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { recordAllocations, recordCpuProfile } from './fleet/record-profiles';
import { Fleet } from './fleet/fleet';
import { officeAtWork } from './fleet/office';
import { recordRun } from './fleet/record-run';
import { keepSent } from './fleet/sink';
import { writeTracesJson } from '@tromix/core/formats/otlp/write';
import { writeRun } from '@tromix/core/load/run-file';
import type { Span } from '@tromix/core/trace/span';
import { FAULTS } from './platform/settings';

/**
 * Records the demo set from a real run: the services at work, their own traces, and V8's profiles of two of them.
 * Release 7.2 runs first; 7.3 of berths brings the query per row; 7.3 of tides no longer throws for control; 7.4 of berths, when
 * the office has gone home, asks once for all rows. Both fixes have a load run before and one after, of the same steps.
 */
const BEFORE_MINUTES = Number(process.env.QH_BEFORE_MINUTES ?? 9);
const AFTER_MINUTES = Number(process.env.QH_AFTER_MINUTES ?? 8);
const PROFILE_SECONDS = 40;
const OUT = process.env.QH_OUT ?? fileURLToPath(new URL('../recordings', import.meta.url));
const SCRATCH = fileURLToPath(new URL('../../.tmp/record', import.meta.url));

await rm(SCRATCH, { recursive: true, force: true });
await mkdir(OUT, { recursive: true });
const { sent, close } = await keepSent(47_318);

const fleet = new Fleet({
  firstPort: 47_400,
  otlpEndpoint: 'http://127.0.0.1:47318',
  dataFolder: SCRATCH,
  inspect: true
});
const before = FAULTS.filter((fault) => fault !== 'query-per-row');
await fleet.start('7.2', before);
const stopLoad = new AbortController();
const office = officeAtWork(fleet.gateway, {
  users: 8,
  rampUpSeconds: 20,
  pauseSeconds: 4.2,
  signal: stopLoad.signal
});

const loads: string[] = [];
const loadSpans: Span[] = [];
/** What is repeated before and after a fix: the steps, by service. A berth takes 214 calls before: fewer of them, to keep the files small. */
const STEPS = {
  tides: {
    name: 'tide window of any station',
    method: 'GET',
    path: '/tides/window?station={1..9999}',
    users: 6,
    loops: 40
  },
  berths: { name: 'berth of any call', method: 'POST', path: '/calls/{1..60}/berth', users: 2, loops: 54 }
} as const;

async function loadRun(service: keyof typeof STEPS, release: string): Promise<void> {
  const { name, method, path: at, users, loops } = STEPS[service];
  const { port } = fleet.places.find((place) => place.service === service)!;
  const { run, spans } = await recordRun({
    name,
    steps: [{ method, url: `http://127.0.0.1:${port}${at}` }],
    users,
    rampUpSeconds: 6,
    loops,
    pauseSeconds: 0.1
  });
  const file = `load-${service}-${release}-${loads.length + 1}.json.gz`;
  loads.push(file);
  loadSpans.push(...spans);
  await writeFile(path.join(OUT, file), gzipSync(writeRun(run), { level: 9 }));
  console.log(`load run against ${service} ${release}: ${run.samples.length} requests`);
}

const profiles: { pid: number }[] = [];
async function profile(kind: 'cpu' | 'allocation', service: string, release: string): Promise<void> {
  const place = fleet.places.find((at) => at.service === service)!;
  const pid = fleet.pidOf(place);
  const record = kind === 'cpu' ? recordCpuProfile : recordAllocations;
  const { json, startedAtUs } = await record(place.inspectorPort, PROFILE_SECONDS);
  const suffix = kind === 'cpu' ? 'cpuprofile' : 'heapprofile';
  const file = `${kind}-${service}-${release}-${profiles.length + 1}.${suffix}.gz`;
  const recorded = { file, service, host: place.host, release, pid, startedAtUs };
  profiles.push(recorded);
  await writeFile(path.join(OUT, file), gzipSync(json, { level: 9 }));
  console.log(`${kind} profile of ${service} ${release}: ${(json.length / 1e6).toFixed(1)} MB of JSON`);
}

const kept = JSON.parse(await readFile(path.join(OUT, 'manifest.json'), 'utf8')) as {
  endedAtUs: number;
  dumps: { file: string; startedAtUs: number; pid: number }[];
  watches?: string;
};
for (const old of await readdir(OUT))
  if (old.endsWith('.gz') && !kept.dumps.some(({ file }) => file === old)) await rm(path.join(OUT, old));
await sleep(BEFORE_MINUTES * 60_000 - PROFILE_SECONDS * 1000);
await profile('cpu', 'berths', '7.2');
await fleet.replace('berths', '7.3', FAULTS);
await sleep((AFTER_MINUTES * 60_000) / 2);
await Promise.all([profile('cpu', 'berths', '7.3'), profile('cpu', 'tides', '7.2')]);
await loadRun('tides', '7.2');
await fleet.replace(
  'tides',
  '7.3',
  FAULTS.filter((fault) => fault !== 'thrown-for-control')
);
await sleep((AFTER_MINUTES * 60_000) / 4);
await profile('cpu', 'tides', '7.3');
await profile('allocation', 'tides', '7.3');
await loadRun('tides', '7.3');
await sleep((AFTER_MINUTES * 60_000) / 4 - 3 * PROFILE_SECONDS * 1000);
stopLoad.abort();
const { requests, failed } = await office;
await sleep(2000);
await loadRun('berths', '7.3');
await fleet.replace('berths', '7.4', before);
await loadRun('berths', '7.4');
await sleep(2000);
await fleet.stop();
close();

// Each batch is a whole OTLP message; protobuf messages of one type merge when written after one another.
const MAX_PART = 24_000_000;
const files: string[] = [];
let part: Buffer[] = [];
const flush = async (): Promise<void> => {
  if (part.length === 0) return;
  const file = `traces-${files.length + 1}.otlp.pb.gz`;
  await writeFile(path.join(OUT, file), gzipSync(Buffer.concat(part), { level: 9 }));
  files.push(file);
  part = [];
};
for (const batch of sent.traces) {
  if (part.reduce((sum, one) => sum + one.length, 0) + batch.length > MAX_PART) await flush();
  part.push(batch);
}
await flush();
const fromDriver = 'load-runs.otlp.json.gz';
await writeFile(path.join(OUT, fromDriver), gzipSync(writeTracesJson(loadSpans), { level: 9 }));
files.push(fromDriver);
const counters = 'runtime.otlp.pb.gz';
await writeFile(path.join(OUT, counters), gzipSync(Buffer.concat(sent.metrics), { level: 9 }));
const endedAtUs = Date.now() * 1000;
// Thread and heap dumps are of other machines (see jvm/): they keep their distance to the end.
// Those of tides stand for the process whose allocations were recorded.
const { pid } = profiles.at(-1)!;
const dumps = kept.dumps.map((dump) => ({
  ...dump,
  pid: dump.pid > 0 ? pid : 0,
  startedAtUs: dump.startedAtUs + endedAtUs - kept.endedAtUs
}));
// A case names traces of the recording it was made on: it is kept anew afterwards (`npm run record-case`).
const manifest = {
  endedAtUs,
  traces: files,
  profiles,
  dumps,
  loads,
  counters: [counters],
  // Written by hand: they watch whatever is recorded.
  watches: kept.watches,
  cases: []
};
await writeFile(path.join(OUT, 'manifest.json'), `${JSON.stringify(manifest, null, 2)}\n`);
console.log(`${requests} requests, ${failed} failed, ${sent.traces.length} batches`);
process.exit(0);
