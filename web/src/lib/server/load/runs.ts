import { randomBytes } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import path from 'node:path';
import { MessageChannel, type Worker } from 'node:worker_threads';
import { transfer } from 'comlink';
import { maskedPlan, missingParts } from '@tromix/core/load/masked-plan';
import { readPlan, runName } from '@tromix/core/load/plan';
import { END_WORDS, type LoadEnd } from '@tromix/core/load/run-file';
import type { SampleOrder } from '@tromix/core/load/sample-rows';
import { isRunKey } from '@tromix/core/load/trace-ids';
import type { SenderOrder } from '@tromix/load/sender-thread';
import { refusedStep } from '@tromix/load/targets';
import { EvidenceStore } from '../evidence/evidence-store';
import { takeEvidence } from '../evidence/take-evidence';
import { publish } from '../live';
import { loadRunOf } from '../queries/load-runs';
import { settings } from '../settings';
import { callLoadKeeper, callWriter, change, startSender } from '../workers';
import type { KeptRun, RunPicture } from './keeper.worker';
import { recordDuring, type OnTheWay } from './on-the-way';
import type { RunRecording } from './run-order';

/** The run under way: one at a time, so that no run measures another. */
let underWay: { key: string; stop: () => void } | null = null;

/** After the sending thread has ended its last words arrive within this time. */
const LAST_WORDS_MS = 2000;

export type RunOutcome = { ok: true; key: string } | { ok: false; status: number; message: string };

const folder = (): string => path.join(settings().dataFolder, 'load');

/**
 * Starts a load run, which ends by itself. Answers once it has begun; what came of it is found among the evidence.
 * @param key of the run; equal keys are one run, however often it is asked for.
 */
export async function startRun(
  given: unknown,
  record: readonly RunRecording[] = [],
  key: string = randomBytes(8).toString('hex')
): Promise<RunOutcome> {
  const read = readPlan(given);
  if (!read.ok) return { ok: false, status: 400, message: read.message };
  const refused = missingParts(read.plan) || refusedStep(read.plan, settings().loadTargets);
  if (refused) return { ok: false, status: 400, message: refused };
  if (!isRunKey(key)) return { ok: false, status: 400, message: 'key: expected 16 hexadecimal digits' };
  if (underWay?.key === key || (await loadRunOf(key)) !== null)
    return { ok: false, status: 409, message: 'This run was started already.' };
  if (underWay)
    return {
      ok: false,
      status: 409,
      message:
        'A load run is under way, and two would measure each other. Stop it first, or wait for its end.'
    };
  // Asked for twice at once it is started once.
  underWay = { key, stop: () => undefined };
  try {
    const onTheWay = await recordDuring(record, read.plan);
    const plan = maskedPlan({ ...read.plan, name: runName(read.plan) });
    const begun = { key, name: plan.name, startedAtUs: Date.now() * 1000, plan };
    await mkdir(folder(), { recursive: true });
    await callWriter((writer) =>
      writer.putLoadRun({
        key,
        name: begun.name,
        state: 'running',
        message: onTheWay.message,
        startedAtUs: begun.startedAtUs,
        plan: JSON.stringify(plan),
        recordings: JSON.stringify(onTheWay.ids)
      })
    );
    const { port1, port2 } = new MessageChannel();
    await callLoadKeeper((keeper) => keeper.begin(begun, folder(), transfer(port2, [port2])));
    const sender = startSender({ key, plan: read.plan, targets: settings().loadTargets, port: port1 });
    underWay = { key, stop: () => sender.postMessage('stop' satisfies SenderOrder) };
    void follow(key, sender, onTheWay);
  } catch (cause) {
    underWay = null;
    throw cause;
  }
  publish('runs');
  return { ok: true, key };
}

/** Waits for the end of a run, and makes its file evidence. */
async function follow(key: string, sender: Worker, onTheWay: OnTheWay): Promise<void> {
  const gone = (cause: unknown): void => {
    if (cause instanceof Error) console.error(`The thread that sends a load run ended: ${cause.message}`);
    // What it said last may still be on its way to the keeper.
    setTimeout(
      () => void callLoadKeeper((keeper) => keeper.giveUp(key)).catch(() => undefined),
      LAST_WORDS_MS
    );
  };
  sender.once('error', gone);
  sender.once('exit', gone);
  try {
    const kept = await callLoadKeeper((keeper) => keeper.ended(key));
    const more = await onTheWay.finish();
    await keep(key, kept, more.ids, [onTheWay.message, more.message].filter(Boolean).join(' '));
  } catch (cause) {
    console.error(`A load run could not be kept: ${(cause as Error).message}`);
    await change('updateLoadRun', key, {
      state: 'cut-off',
      message: `It could not be kept. ${(cause as Error).message}`
    }).catch(() => undefined);
  } finally {
    underWay = null;
    publish('runs');
  }
}

async function keep(
  key: string,
  { file, end, endUs }: KeptRun,
  recordings: string[],
  message: string
): Promise<void> {
  const taken = await takeEvidence(createReadStream(file), {
    name: '',
    service: '',
    host: '',
    release: '',
    pid: 0,
    startedAtUs: null
  });
  await rm(file, { force: true });
  await change('updateLoadRun', key, {
    state: end,
    endUs: Math.round(endUs),
    recordings: JSON.stringify(recordings),
    message: taken.ok ? message : `It could not be kept. ${taken.message}`
  });
}

/** Stops a run before its end; what it has measured is kept. @returns false for one that is not under way. */
export function stopRun(key: string): boolean {
  if (underWay?.key !== key) return false;
  underWay.stop();
  return true;
}

/** What a run comes to, so far or in the end; null for none, and where its file is gone. */
export async function pictureOfRun(key: string, order: SampleOrder): Promise<RunPicture | null> {
  const live = await callLoadKeeper((keeper) => keeper.live(key, order));
  const file = live ? null : await fileOf(key);
  return file ? callLoadKeeper((keeper) => keeper.past(file, order)) : live;
}

/** The samples of a run that is over; null for none. */
export async function csvOfRun(key: string): Promise<string | null> {
  const file = await fileOf(key);
  return file ? callLoadKeeper((keeper) => keeper.csv(file)) : null;
}

async function fileOf(key: string): Promise<string | null> {
  const run = await loadRunOf(key);
  const store = new EvidenceStore(settings().dataFolder);
  return run && run.evidenceId !== '' && (await store.has(run.evidenceId))
    ? store.pathOf(run.evidenceId)
    : null;
}

/** Runs that a server which was killed left behind are kept, marked as cut off. */
export async function keepLeftOverRuns(): Promise<void> {
  for (const { run, file } of await callLoadKeeper((keeper) => keeper.leftOver(folder())))
    await keep(run.key, { file, end: run.end, endUs: run.endUs }, [], `It ${END_WORDS['cut-off']}.`);
  await change('endLoadRuns', 'cut-off' satisfies LoadEnd, `It ${END_WORDS['cut-off']}.`);
}
