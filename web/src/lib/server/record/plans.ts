import { latency, totalIn } from '../queries/rollups';
import { planList, recordingsOfPlan, type Recording, type StoredPlan } from '../queries/recordings';
import { removeEvidence } from '../evidence/remove-evidence';
import { settings } from '../settings';
import { callWriter } from '../workers';
import { publish } from '../live';
import { scopeFrom } from '$lib/scope';
import { allowedPlace } from './addresses';
import { startRecording } from './recorder';

const TICK_MS = 5000;
/** An endpoint's p95 is taken over so many minutes. */
const WATCHED_MINUTES = 5;
/** Fewer requests say nothing of a p95. */
const MIN_REQUESTS = 20;
/** After a recording for slowness the plan rests, so that one bad hour does not fill the store. */
const REST_MINUTES = 10;

/** Whether a plan is due, and why. Exported for the tests. */
export async function isDue(
  { plan, createdAtUs }: StoredPlan,
  recorded: readonly Recording[],
  nowMs: number
): Promise<boolean> {
  const last = recorded.at(-1)?.startedAtUs ?? 0;
  if (recorded.some(({ state }) => state === 'recording' || state === 'saving')) return false;
  if (plan.when.by === 'time') {
    const from = Math.max(last, last === 0 ? createdAtUs - plan.when.everyMinutes * 60e6 : 0);
    return nowMs * 1000 - from >= plan.when.everyMinutes * 60e6;
  }
  if (nowMs * 1000 - last < REST_MINUTES * 60e6) return false;
  const { service, endpoint, overMs } = plan.when;
  const window = { fromUs: (nowMs - WATCHED_MINUTES * 60_000) * 1000, toUs: nowMs * 1000 };
  const totals = await totalIn(scopeFrom(new URLSearchParams({ service, endpoint })), window, nowMs);
  return totals.count >= MIN_REQUESTS && latency(totals, [0.95])[0] > overMs * 1e6;
}

/** Removes the oldest profiles of a plan beyond what it keeps. */
async function thinOut({ id, plan }: StoredPlan): Promise<void> {
  const saved = (await recordingsOfPlan(id)).filter(
    ({ state, evidenceId }) => state === 'saved' && evidenceId
  );
  for (const { id: recording, evidenceId } of saved.slice(0, Math.max(0, saved.length - plan.keep))) {
    await removeEvidence({ id: evidenceId, kind: plan.kind === 'heap' ? 'heap' : 'profile' });
    await callWriter((writer) =>
      writer.change([{ sql: 'DELETE FROM recordings WHERE id = ?', args: [recording] }])
    );
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
  await callWriter((writer) =>
    writer.change([
      {
        sql: `INSERT INTO recordings (id, address, kind, seconds, "interval", state, message, plan_id, evidence_id, service, host, "release", pid, started_at_us)
          VALUES (?, ?, ?, ?, ?, 'failed', ?, ?, '', '', '', '', 0, ?)`,
        args: [
          crypto.randomUUID(),
          plan.address,
          plan.kind,
          plan.seconds,
          plan.interval,
          message,
          id,
          Date.now() * 1000
        ]
      }
    ])
  );
  publish('recordings');
}

/** Looks after the plans until the server ends. */
export function keepPlans(): void {
  const again = (): void => {
    setTimeout(() => {
      void tick()
        .catch((cause: unknown) => console.error('The recording plans could not be looked after.', cause))
        .finally(again);
    }, TICK_MS).unref();
  };
  again();
}
