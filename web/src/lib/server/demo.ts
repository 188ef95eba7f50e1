import { createReadStream } from 'node:fs';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { Readable } from 'node:stream';
import { gunzipSync } from 'node:zlib';
import { Case } from '@tromix/core/case/case';
import { readRun, writeRun } from '@tromix/core/load/run-file';
import { Board } from '@tromix/core/watch/board';
import { Watch } from '@tromix/core/watch/watch';
import * as v from 'valibot';
import { moveCase } from './cases/move-case';
import { takePageProfile } from './evidence/page-profile';
import { takeEvidence } from './evidence/take-evidence';
import type { Encoding } from './ingest/accepted';
import { keptBy } from './queries/cases';
import { callWriter, change } from './workers';

const Recorded = v.object({
  file: v.string(),
  service: v.string(),
  host: v.string(),
  release: v.string(),
  pid: v.number(),
  startedAtUs: v.number()
});

const Manifest = v.object({
  endedAtUs: v.number(),
  traces: v.array(v.string()),
  profiles: v.array(Recorded),
  /** Thread and heap dumps. */
  dumps: v.array(Recorded),
  /** Files of load runs. */
  loads: v.optional(v.array(v.string()), () => []),
  /** What fails, recorded by itself: it ends when the story does. */
  failures: v.optional(
    v.object({
      endedAtUs: v.number(),
      traces: v.array(v.string()),
      logs: v.array(v.string()),
      crashes: v.array(Recorded)
    })
  ),
  /** Loads of pages, recorded by themselves with the requests behind them: they end when the story does. */
  pages: v.optional(
    v.object({ endedAtUs: v.number(), traces: v.array(v.string()), loads: v.array(v.string()) })
  ),
  /** What hosts and processes tell: OTLP metrics. */
  counters: v.optional(v.array(v.string()), () => []),
  /** Watches, and boards with what they watch. */
  watches: v.optional(v.string(), ''),
  /** Files of cases. */
  cases: v.optional(v.array(v.string()), () => [])
});

/** When the recorded story ended here, epoch milliseconds; null without a demo. */
let storyEndMs: number | null = null;
/** The story is shorter than this. */
const STORY_MS = 20 * 60_000;
/** So long after its end the story still lies in the window that is shown at first. */
const SEEN_MS = 10 * 60_000;

/** The time range of the demo's story, once it has left the window that is shown at first; null before, and without a demo. */
export const leftStory = (nowMs: number): { from: number; to: number } | null =>
  storyEndMs === null || nowMs - storyEndMs < SEEN_MS
    ? null
    : { from: storyEndMs - STORY_MS, to: storyEndMs };

/** Loads recordings, moved in time so that they end just now. */
export async function loadDemo(folder: string): Promise<void> {
  const manifest = v.parse(Manifest, JSON.parse(await readFile(path.join(folder, 'manifest.json'), 'utf8')));
  const begun = Date.now();
  const shiftUs = begun * 1000 - manifest.endedAtUs;
  // Before their traces: so these are known as theirs at once.
  for (const file of manifest.loads) await loadRun(path.join(folder, file), shiftUs);
  let spans = await loadTraces(folder, manifest.traces, shiftUs);
  if (manifest.failures) spans += await loadFailures(folder, manifest.failures, begun);
  if (manifest.pages) spans += await loadPages(folder, manifest.pages, begun);
  for (const file of manifest.counters)
    await loadSignal('metrics', path.join(folder, file), encodingOf(file), shiftUs);
  storyEndMs = begun;
  await callWriter((writer) => writer.settleAll());
  for (const one of [...manifest.profiles, ...manifest.dumps]) await loadEvidence(folder, one, shiftUs);
  if (manifest.watches) await loadWatches(path.join(folder, manifest.watches), begun);
  for (const file of manifest.cases) await loadCase(path.join(folder, file), shiftUs);
  console.log(
    `Demo data: ${spans} spans, ${manifest.profiles.length} profiles and ${manifest.dumps.length} dumps loaded in ${((Date.now() - begun) / 1000).toFixed(1)} s.`
  );
}

const Watched = v.object({ watches: v.array(Watch), boards: v.array(Board) });

/** They watch since the story began: what they said in it stands in their history. */
async function loadWatches(file: string, endMs: number): Promise<void> {
  const { watches, boards } = v.parse(Watched, JSON.parse(await readFile(file, 'utf8')));
  const from = Math.floor((endMs - STORY_MS) / 60_000);
  for (const [i, watch] of watches.entries()) await change('addWatch', `demo-${i + 1}`, watch, from);
  for (const [i, { name, charts }] of boards.entries())
    await change('addBoard', `demo-${i + 1}`, name, charts);
}

async function loadEvidence(
  folder: string,
  { file, startedAtUs, ...label }: v.InferOutput<typeof Recorded>,
  shiftUs: number
): Promise<void> {
  const outcome = await takeEvidence(createReadStream(path.join(folder, file)), {
    ...label,
    name: file,
    startedAtUs: startedAtUs + shiftUs
  });
  if (!outcome.ok) throw new Error(`The recording ${file} cannot be read: ${outcome.message}`);
}

const encodingOf = (file: string): Encoding => (file.includes('.json') ? 'json' : 'protobuf');

async function loadSignal(
  signal: 'logs' | 'metrics',
  file: string,
  encoding: Encoding,
  shiftUs: number
): Promise<void> {
  const body = await readFile(file);
  const outcome = await callWriter((writer) =>
    writer.receive(signal, { body, encoding, gzip: true, shiftUs })
  );
  if (!outcome.ok) throw new Error(`The recording ${file} cannot be read: ${outcome.message}`);
}

/** @returns the spans that were loaded */
async function loadFailures(
  folder: string,
  { endedAtUs, traces, logs, crashes }: NonNullable<v.InferOutput<typeof Manifest>['failures']>,
  endMs: number
): Promise<number> {
  const shiftUs = endMs * 1000 - endedAtUs;
  for (const file of logs) await loadSignal('logs', path.join(folder, file), 'protobuf', shiftUs);
  for (const crash of crashes) await loadEvidence(folder, crash, shiftUs);
  return loadTraces(folder, traces, shiftUs);
}

/** What a page sent when it was recorded: see workload/src/fleet/keep-loads.ts. */
const SentByPage = v.object({ atUs: v.number(), path: v.string(), body: v.string() });

/** @returns the spans that were loaded, of the requests behind the pages */
async function loadPages(
  folder: string,
  { endedAtUs, traces, loads }: NonNullable<v.InferOutput<typeof Manifest>['pages']>,
  endMs: number
): Promise<number> {
  const shiftUs = endMs * 1000 - endedAtUs;
  const spans = await loadTraces(folder, traces, shiftUs);
  for (const file of loads) {
    const text = gunzipSync(await readFile(path.join(folder, file))).toString('utf8');
    for (const line of text.split('\n')) {
      const { atUs, path: to, body: sent } = v.parse(SentByPage, JSON.parse(line));
      const body = Buffer.from(sent);
      const trace = /^\/collect\/profile\/([0-9a-f]{32})/.exec(to)?.[1];
      const outcome = trace
        ? await takePageProfile(trace, body)
        : await callWriter((writer) =>
            writer.collect({ body, encoding: 'json', gzip: false }, atUs + shiftUs)
          );
      if (!outcome.ok) throw new Error(`The recording ${file} cannot be read: ${outcome.message}`);
    }
  }
  return spans;
}

/** @returns the spans that were loaded */
async function loadTraces(folder: string, files: readonly string[], shiftUs: number): Promise<number> {
  let spans = 0;
  for (const file of files) {
    const body = await readFile(path.join(folder, file));
    const outcome = await callWriter((writer) => writer.ingest(body, encodingOf(file), true, shiftUs));
    if (!outcome.ok) throw new Error(`The recording ${file} cannot be read: ${outcome.message}`);
    spans += outcome.value.spans;
  }
  return spans;
}

/** A case as it was kept, and by how many microseconds the recording was moved when it was made. */
const KeptCase = v.object({ movedUs: v.number(), case: Case });

async function loadCase(file: string, shiftUs: number): Promise<void> {
  const { movedUs, case: kept } = v.parse(KeptCase, JSON.parse(await readFile(file, 'utf8')));
  const one = moveCase(kept, shiftUs - movedUs);
  await change('openCase', one, keptBy(one));
}

async function loadRun(file: string, shiftUs: number): Promise<void> {
  const run = readRun(gunzipSync(await readFile(file)));
  const moved = writeRun({ ...run, startedAtUs: run.startedAtUs + shiftUs });
  const label = {
    name: path.basename(file, '.gz'),
    service: '',
    host: '',
    release: '',
    pid: 0,
    startedAtUs: null
  };
  const outcome = await takeEvidence(Readable.from([Buffer.from(moved)]), label);
  if (!outcome.ok) throw new Error(`The recording ${file} cannot be read: ${outcome.message}`);
}
