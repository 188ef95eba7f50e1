import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { rm } from 'node:fs/promises';
import path from 'node:path';
import { formatDuration } from '@tromix/core/text/format';
import { publish } from '../live';
import { recordingsInState, resourceOfPid } from '../queries/recordings';
import { settings } from '../settings';
import { takeEvidence } from '../evidence/take-evidence';
import { guarded } from '../guarded';
import type { Changes } from '../ingest/changes';
import { callRecorder, change } from '../workers';
import { addressOf, type Place } from './addresses';
import { wantsAsking } from './heap-cost';
import { heapCostWords, heapWords } from './heap-cost-words';
import type { RecordingOrder, TargetFacts } from './record';

/** Places where something is being recorded: V8 has one profiler for each process. A thread dump needs none, and is taken beside a recording. */
const busy = new Map<string, string>();

const SUFFIXES: Record<RecordingOrder['kind'], string> = {
  cpu: 'cpuprofile',
  allocation: 'heapprofile',
  heap: 'heapsnapshot',
  threads: 'json'
};

export type StartOutcome =
  | { ok: true; id: string }
  /** `ask`: it is done only by who is sure of it. */
  | { ok: false; status: number; message: string; ask?: boolean };

/**
 * Starts a recording, which ends by itself after its time. Answers once the process has said who it is; what came of it
 * is found among the evidence.
 * @param sure takes a heap dump also where it stands still for long, or may not fit into memory.
 */
export async function startRecording(
  place: Place,
  order: RecordingOrder,
  planId = '',
  sure = false
): Promise<StartOutcome> {
  const address = addressOf(place);
  const alone = order.kind !== 'threads';
  if (alone && busy.has(address))
    return {
      ok: false,
      status: 409,
      message: 'This process is being recorded already. Stop that first, or wait for its end.'
    };
  const id = randomUUID();
  const free = (): void => {
    if (busy.get(address) === id) busy.delete(address);
  };
  if (alone) busy.set(address, id);
  const asked = await callRecorder((recorder) => recorder.facts(place, order.kind)).catch(
    (cause: unknown) => ({
      ok: false as const,
      message: String(cause)
    })
  );
  if (!asked.ok) {
    free();
    return { ok: false, status: 502, message: asked.message };
  }
  if (asked.heap && wantsAsking(asked.heap) && !sure) {
    free();
    return {
      ok: false,
      status: 409,
      message: `${heapCostWords(asked.heap)} Take it anyway?`,
      ask: true
    };
  }
  const label = await labelOf(asked.facts);
  const mode = asked.facts.development
    ? 'The process runs in development mode: what it shows may differ from production.'
    : '';
  const words = (heap: string): string => [heap, mode].join(' ').trim();
  const message = words(asked.heap ? heapCostWords(asked.heap) : '');
  await change('addRecording', {
    ...label,
    id,
    address,
    kind: order.kind,
    seconds: order.seconds,
    interval: order.interval,
    state: 'recording',
    message,
    planId,
    evidenceId: '',
    startedAtUs: Date.now() * 1000
  });
  publish('recordings');
  void run(id, place, order, label, words(asked.heap ? heapWords(asked.heap) : '')).finally(free);
  return { ok: true, id };
}

interface Label {
  service: string;
  host: string;
  release: string;
  pid: number;
}

/** What the process calls itself; where it does not, what spans with its process id say. */
async function labelOf(facts: TargetFacts): Promise<Label> {
  const known = await resourceOfPid(facts.pid);
  return {
    service: facts.service || known?.service || '',
    host: known?.host ?? facts.host,
    release: facts.release || known?.release || '',
    pid: facts.pid
  };
}

async function run(
  id: string,
  place: Place,
  order: RecordingOrder,
  label: Label,
  message: string
): Promise<void> {
  const folder = path.join(settings().dataFolder, 'recording');
  const address = addressOf(place);
  try {
    const outcome = await guarded({ kind: 'recording', id: address, name: `the process at ${address}` }, () =>
      callRecorder((recorder) => recorder.record(id, place, order, folder, settings().maxHeapBytes))
    );
    if (!outcome.ok) {
      await end(id, outcome.message === 'It was cancelled.' ? 'cancelled' : 'failed', outcome.message);
      return;
    }
    await update(id, {
      state: 'saving',
      cpuBefore: outcome.cpuBefore,
      cpuDuring: outcome.cpuDuring,
      costLow: outcome.cost?.low ?? null,
      costHigh: outcome.cost?.high ?? null,
      handlingUs: outcome.handlingUs ?? null
    });
    const name = `${order.kind}-${label.service || 'process'}-${label.release || label.pid}.${outcome.isTrace ? 'trace.json' : SUFFIXES[order.kind]}`;
    const taken = await takeEvidence(createReadStream(outcome.file), {
      ...label,
      name,
      startedAtUs: outcome.startedAtUs
    });
    await rm(outcome.file, { force: true });
    if (!taken.ok) await end(id, 'failed', taken.message);
    else
      await update(id, {
        state: 'saved',
        evidenceId: taken.value.id,
        message:
          outcome.stoppedMs === undefined
            ? [threadWords(order, outcome.isTrace === true), message].join(' ').trim()
            : `The process was paused for ${formatDuration(outcome.stoppedMs * 1e6)}. ${message}`
      });
  } catch (cause) {
    console.error(`A recording failed: ${(cause as Error).message}`);
    await end(id, 'failed', `It could not be kept. ${(cause as Error).message}`).catch(() => undefined);
  }
}

/** Which threads a recording is of. */
function threadWords({ kind, calls = 'no' }: RecordingOrder, isTrace: boolean): string {
  if (kind !== 'cpu') return '';
  if (calls !== 'no') return 'Calls of its main thread were counted.';
  return isTrace ? 'Its worker threads were sampled too.' : 'No other JavaScript thread was sampled.';
}

const end = (id: string, state: string, message: string): Promise<void> => update(id, { state, message });

async function update(id: string, changed: Parameters<Changes['updateRecording']>[1]): Promise<void> {
  await change('updateRecording', id, changed);
  publish('recordings');
}

/** Ends a recording before its time. @param how `stop` keeps what there is, `cancel` does not. */
export const endRecording = (id: string, how: 'stop' | 'cancel'): Promise<boolean> =>
  callRecorder((recorder) => recorder.end(id, how));

/** Recordings a server that stopped has left behind ended with it: V8 stops when the connection closes. */
export async function closeLeftOver(): Promise<void> {
  for (const { id } of await recordingsInState(['recording', 'saving']))
    await end(id, 'failed', 'The server stopped while it was recorded.');
}
