import { evidenceKindOf } from '$lib/evidence/recorded-kind';
import { randomUUID } from 'node:crypto';
import { isOn } from '../watch/queries';
import { hasRested, repeatedly } from '../watch/schedule';
import { planList, recordingsOfPlan, type Recording, type StoredPlan } from '../queries/recordings';
import { removeEvidence } from '../evidence/remove-evidence';
import { settings } from '../settings';
import { change } from '../workers';
import { publish } from '../live';
import { allowedPlace } from './addresses';
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
  if (plan.when.by === 'time') return hasRested(plan.when.everyMinutes, lastMs, nowMs);
  if (!hasRested(REST_MINUTES, lastMs, nowMs)) return false;
  return isOn(plan.when.watch);
}

/** Removes the oldest profiles of a plan beyond what it keeps. */
async function thinOut({ id, plan }: StoredPlan): Promise<void> {
  const saved = (await recordingsOfPlan(id)).filter(
    ({ state, evidenceId }) => state === 'saved' && evidenceId
  );
  for (const { id: recording, evidenceId } of saved.slice(0, Math.max(0, saved.length - plan.keep))) {
    await removeEvidence({ id: evidenceId, kind: evidenceKindOf(plan.kind) });
    await change('removeRecording', recording);
    publish('recordings');
  }
}

async function tick(): Promise<void> {
  for (const stored of await planList()) {
    const recorded = await recordingsOfPlan(stored.id);
    if (await isDue(stored, recorded, Date.now())) {
      const place = allowedPlace(stored.plan.address, settings().inspectPlaces);
      if ('refused' in place) continue;
      const started = await startRecording(place, stored.plan, stored.id);
      if (!started.ok) await noteMiss(stored, started.message);
    }
    await thinOut(stored);
  }
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
