import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { gzipSync } from 'node:zlib';
import { ExportLogsServiceRequest, ExportTraceServiceRequest } from '@tromix/core/formats/otlp/schema';
import { agentSteps } from './fleet/agent-steps';
import { processEndOf } from './fleet/crash-report';
import { Fleet } from './fleet/fleet';
import { asThere, messageThere, type Message } from './fleet/places-of-others';
import { officeAtWork } from './fleet/office';
import { keepSent } from './fleet/sink';
import { FAULTS } from './platform/settings';

/**
 * Records what fails in Quillhaven, into the demo set that is there: ship agents ask for pilots and for their goods. Release 7.3 of pilots names watches by number, 7.4 does not, 7.5
 * does again; by night berths are taken; a gauge is silent now and then; manifests end by a recursion, tides by running out of memory.
 */
const PART_SECONDS = Number(process.env.QH_PART_SECONDS ?? 100);
const OUT = process.env.QH_OUT ?? fileURLToPath(new URL('../recordings', import.meta.url));
const SCRATCH = fileURLToPath(new URL('../../.tmp/record-failures', import.meta.url));

await rm(SCRATCH, { recursive: true, force: true });
await mkdir(path.join(SCRATCH, 'reports'), { recursive: true });
const { sent, close } = await keepSent(47_319);

const crashes: {
  file: string;
  service: string;
  host: string;
  release: string;
  pid: number;
  startedAtUs: number;
}[] = [];
const fleet = new Fleet({
  firstPort: 47_600,
  otlpEndpoint: 'http://127.0.0.1:47319',
  dataFolder: SCRATCH,
  inspect: false,
  heapLimits: { tides: 56 },
  onCrash: ({ service, host }, release, died) => {
    const file = `crash-${service}-${crashes.length + 1}.json.gz`;
    crashes.push({ file, service, host, release, pid: died.pid, startedAtUs: Date.now() * 1000 });
    console.log(`${service} ended: ${died.signal ?? died.code}`);
    void writeFile(path.join(OUT, file), gzipSync(asThere(processEndOf(fleet.reports, died)), { level: 9 }));
  }
});
await fleet.start('7.2', FAULTS);
await fleet.replace('tides', '7.3', FAULTS);
await fleet.replace('berths', '7.3', FAULTS);
await fleet.replace('pilots', '7.3', FAULTS);
const stopLoad = new AbortController();
const agents = officeAtWork(fleet.gateway, {
  users: 6,
  rampUpSeconds: 5,
  pauseSeconds: 1.6,
  signal: stopLoad.signal,
  steps: agentSteps(fleet.gateway)
});
for (const release of ['7.4', '7.5']) {
  await sleep(PART_SECONDS * 1000);
  await fleet.replace('pilots', release, FAULTS);
}
await sleep(PART_SECONDS * 1000);
stopLoad.abort();
const { requests, failed } = await agents;
await sleep(2000);
await fleet.stop();
close();

// Protobuf messages of one type merge when written after one another.
const keep = async (file: string, type: Message, parts: Buffer[]): Promise<string> => {
  await writeFile(path.join(OUT, file), gzipSync(messageThere(type, Buffer.concat(parts)), { level: 9 }));
  return file;
};
const manifestFile = path.join(OUT, 'manifest.json');
const manifest = JSON.parse(await readFile(manifestFile, 'utf8')) as object;
const failures = {
  endedAtUs: Date.now() * 1000,
  traces: [await keep('failures.otlp.pb.gz', ExportTraceServiceRequest, sent.traces)],
  logs: [await keep('failures-logs.otlp.pb.gz', ExportLogsServiceRequest, sent.logs)],
  crashes
};
await writeFile(manifestFile, `${JSON.stringify({ ...manifest, failures }, null, 2)}\n`);
console.log(`${requests} requests, ${failed} failed, ${crashes.length} crashes`);
process.exit(0);
