import { evidenceKindOf } from '$lib/evidence/recorded-kind';
import { randomUUID } from 'node:crypto';
import { isOn } from '../watch/queries';
import { hasRested, repeatedly } from '../watch/schedule';
import {
  isCondensed,
  planList,
  recordingsOfPlan,
  type Recording,
  type StoredPlan
} from '../queries/recordings';
import { removeEvidence } from '../evidence/remove-evidence';
import { settings } from '../settings';
import { change } from '../workers';
import { publish } from '../live';
import { allowedPlace, type Place } from './addresses';
import { measuresNext, withinBudget } from './plan-cost';
import type { RecordingPlan, SlicePlan } from './plan-schema';
import { recordableProcesses } from './processes';
import { startRecording } from './recorder';

const TICK_MS = 5000;
/** While a watch is on the plan rests after a recording, so that one bad hour does not fill the store. */
const REST_MINUTES = 10;

/** Whether a plan is due. Exported for the tests. */
export async function isDue(
  { plan }: StoredPlan,
  recorded: readonly Recording[],
  nowMs: number
): Promise<boolean> {
  const lastMs = (recorded.at(-1)?.startedAtUs ?? 0) / 1000;
  if (recorded.some(({ state }) => state === 'recording' || state === 'saving')) return false;
  if (plan.ended) return false;
  if (plan.when.by !== 'watch') return hasRested(plan.when.everyMinutes, lastMs, nowMs);
  if (!hasRested(REST_MINUTES, lastMs, nowMs)) return false;
  return isOn(plan.when.watch);
}

/** Removes the oldest profiles of a plan beyond what it keeps. */
async function thinOut({ id, plan }: StoredPlan): Promise<void> {
  const saved = (await recordingsOfPlan(id)).filter(
    ({ state, evidenceId }) => state === 'saved' && evidenceId
  );
  for (const { id: recording, evidenceId } of saved.slice(0, Math.max(0, saved.length - plan.keep))) {
    // What it came to stays, by function and endpoint; until it is summed up the file stays too.
    if (plan.kind === 'cpu') {
      if (!(await isCondensed(evidenceId))) continue;
      await change('keepProfileSums', evidenceId);
    }
    await removeEvidence({ id: evidenceId, kind: evidenceKindOf(plan.kind) });
    await change('removeRecording', recording);
    publish('recordings');
  }
}

async function tick(): Promise<void> {
  for (const stored of await planList()) {
    const recorded = await recordingsOfPlan(stored.id);
    if (await isDue(stored, recorded, Date.now())) {
      if (await keptToBudget(stored, recorded)) continue;
      const place = await placeOf(stored, recorded.length);
      if (!place) continue;
      const unmeasured = stored.plan.when.by === 'always' && !measuresNext(recorded, Date.now());
      const started = await startRecording(place, { ...stored.plan, unmeasured }, stored.id);
      if (!started.ok) await noteMiss(stored, started.message);
    }
    await thinOut(stored);
  }
}

const isSlices = (plan: RecordingPlan): plan is SlicePlan => plan.when.by === 'always';

/** Thins or ends a plan that costs more than it may. @returns whether it was changed */
async function keptToBudget({ id, plan }: StoredPlan, recorded: readonly Recording[]): Promise<boolean> {
  // What was recorded before it was thinned cost what it cost then.
  const next = isSlices(plan) ? withinBudget(plan, recorded) : null;
  if (!next) return false;
  await change('updatePlan', id, next);
  publish('recordings');
  return true;
}

/** Where a plan records next: at its address, or the next process of its service. Null where that may not be recorded, or is not there. */
async function placeOf({ plan }: StoredPlan, turn: number): Promise<Place | null> {
  const { inspectPlaces } = settings();
  if (!isSlices(plan) || plan.when.inTurn === '') {
    const place = allowedPlace(plan.address, inspectPlaces);
    return 'refused' in place ? null : place;
  }
  const { inTurn } = plan.when;
  const processes = (await recordableProcesses(inspectPlaces))
    .filter(({ service }) => service === inTurn)
    .sort((a, b) => (a.host < b.host ? -1 : 1));
  const next = processes[turn % Math.max(1, processes.length)];
  if (!next) return null;
  const place = allowedPlace(next.address, inspectPlaces);
  return 'refused' in place ? null : place;
}

/** A plan whose process does not answer says so among the recordings, once for each time it was due. */
async function noteMiss({ id, plan }: StoredPlan, message: string): Promise<void> {
  const { address, kind, seconds, interval } = plan;
  await change('addRecording', {
    id: randomUUID(),
    address,
    kind,
    seconds,
    interval,
    state: 'failed',
    message,
    planId: id,
    evidenceId: '',
    service: '',
    host: '',
    release: '',
    pid: 0,
    startedAtUs: Date.now() * 1000
  });
  publish('recordings');
}

/** Looks after the plans until the server ends. */
export const keepPlans = (): void =>
  repeatedly(TICK_MS, tick, (cause) =>
    console.error('The recording plans could not be looked after.', cause)
  );
