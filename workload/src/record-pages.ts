import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { Fleet } from './fleet/fleet';
import { keepLoads } from './fleet/keep-loads';
import { visitorsAt } from './fleet/visitors';
import { FAULTS } from './platform/settings';

/**
 * Records loads of the office's pages by a real browser, into the demo set that is there, and the requests behind them. Release 7.2 of the gateway shows
 * the board without what 7.3 brings: a library of charts before the paint, a late picture, a long task, and a call for every station.
 */
const PART_SECONDS = Number(process.env.QH_PART_SECONDS ?? 150);
const OUT = process.env.QH_OUT ?? fileURLToPath(new URL('../recordings', import.meta.url));
const SCRATCH = fileURLToPath(new URL('../../.tmp/record-pages', import.meta.url));
const PAGE_FAULTS = ['charts-before-paint', 'late-picture', 'tides-in-one-task', 'tide-by-tide'];

await rm(SCRATCH, { recursive: true, force: true });
await mkdir(SCRATCH, { recursive: true });
const { traces, loads, close } = await keepLoads(47_320);
const fleet = new Fleet({
  firstPort: 47_700,
  otlpEndpoint: 'http://127.0.0.1:47320',
  dataFolder: SCRATCH,
  inspect: false
});
await fleet.start('7.3', FAULTS);
await fleet.replace(
  'gateway',
  '7.2',
  FAULTS.filter((fault) => !PAGE_FAULTS.includes(fault))
);
let visits = 0;
for (const release of ['7.2', '7.3']) {
  if (release === '7.3') await fleet.replace('gateway', release, FAULTS);
  const stop = new AbortController();
  const visiting = visitorsAt(fleet.gateway, process.env.CHROMIUM ?? '/usr/bin/chromium', stop.signal);
  await sleep(PART_SECONDS * 1000);
  stop.abort();
  visits += await visiting;
}
await sleep(2500);
await fleet.stop();
close();

const keep = async (file: string, content: string | Buffer): Promise<string> => {
  await writeFile(path.join(OUT, file), gzipSync(content, { level: 9 }));
  return file;
};
const manifestFile = path.join(OUT, 'manifest.json');
const manifest = JSON.parse(await readFile(manifestFile, 'utf8')) as object;
const pages = {
  endedAtUs: Date.now() * 1000,
  // Protobuf messages of one type merge when written after one another.
  traces: [await keep('pages.otlp.pb.gz', Buffer.concat(traces))],
  loads: [await keep('page-loads.ndjson.gz', loads.map((one) => JSON.stringify(one)).join('\n'))]
};
await writeFile(manifestFile, `${JSON.stringify({ ...manifest, pages }, null, 2)}\n`);
console.log(`${visits} visits, ${loads.length} beacons, ${traces.length} batches of spans`);
process.exit(0);
