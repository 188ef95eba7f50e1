import { readFile, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync, gzipSync } from 'node:zlib';
import { decodeTracesProtobuf } from '@tromix/core/formats/otlp/traces';
import { HostStandIn, type HostedProcess } from './hosts/stand-in';

/**
 * Adds to the demo set that is there what the invented hosts tell of the time of its traces (see `hosts/stand-in.ts`): of the processes that served then,
 * of what runs beside them, and of the neighbour.
 */
const OUT = process.env.QH_OUT ?? fileURLToPath(new URL('../recordings', import.meta.url));
const STEP_MS = 10_000;
const FILE = 'hosts.otlp.json.gz';

const manifestFile = path.join(OUT, 'manifest.json');
const manifest = JSON.parse(await readFile(manifestFile, 'utf8')) as {
  endedAtUs: number;
  traces: string[];
  counters?: string[];
  failures?: { endedAtUs: number; traces: string[] };
};

/** Processes of some recorded traces. @param shiftMs moves them to the time of the story */
async function processesIn(files: readonly string[], shiftMs: number): Promise<HostedProcess[]> {
  const found = new Map<string, HostedProcess>();
  for (const file of files.filter((name) => name.endsWith('.pb.gz'))) {
    const { spans } = decodeTracesProtobuf(gunzipSync(await readFile(path.join(OUT, file))));
    for (const { resource, startUs } of spans) {
      const { host, service, pid } = resource;
      const atMs = Math.floor(startUs / 1000) + shiftMs;
      const key = `${host} ${pid}`;
      const known = found.get(key);
      if (known) {
        known.fromMs = Math.min(known.fromMs, atMs);
        known.toMs = Math.max(known.toMs, atMs);
      } else if (pid > 0) found.set(key, { host, service, pid, fromMs: atMs, toMs: atMs });
    }
  }
  return [...found.values()];
}

const endMs = Math.floor(manifest.endedAtUs / 1000);
const processes = await processesIn(manifest.traces, 0);
if (manifest.failures)
  processes.push(
    ...(await processesIn(manifest.failures.traces, endMs - Math.floor(manifest.failures.endedAtUs / 1000)))
  );
const beginMs = Math.min(...processes.map(({ fromMs }) => fromMs));
const standIn = new HostStandIn(
  processes.map(({ host }) => host),
  beginMs
);
const resourceMetrics: object[] = [];
for (let atMs = beginMs; atMs <= endMs; atMs += STEP_MS)
  resourceMetrics.push(...(standIn.readAt(atMs, processes) as { resourceMetrics: object[] }).resourceMetrics);
await writeFile(path.join(OUT, FILE), gzipSync(JSON.stringify({ resourceMetrics }), { level: 9 }));
const counters = [...new Set([...(manifest.counters ?? []), FILE])];
await writeFile(manifestFile, `${JSON.stringify({ ...manifest, counters }, null, 2)}\n`);
console.log(
  `${processes.length} processes on invented hosts over ${((endMs - beginMs) / 60_000).toFixed(1)} minutes`
);
