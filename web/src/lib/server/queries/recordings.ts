import { select } from '../db/reader';
import type { RecordingPlan } from '../record/plan-schema';
import type { RecordingOrder } from '../record/record';

export interface Recording {
  id: string;
  address: string;
  kind: RecordingOrder['kind'];
  seconds: number;
  interval: number;
  state: 'recording' | 'saving' | 'saved' | 'failed' | 'cancelled';
  message: string;
  planId: string;
  evidenceId: string;
  service: string;
  host: string;
  release: string;
  pid: number;
  startedAtUs: number;
  cpuBefore: number | null;
  cpuDuring: number | null;
  costLow: number | null;
  costHigh: number | null;
  handlingUs: number | null;
}

const SELECT = `SELECT id, address, kind, seconds, "interval", state, message, plan_id AS planId, evidence_id AS evidenceId, service, host,
  "release", pid, started_at_us AS startedAtUs, cpu_before AS cpuBefore, cpu_during AS cpuDuring, cost_low AS costLow,
  cost_high AS costHigh, handling_us AS handlingUs FROM recordings`;

/** The newest recordings first. */
export const recordingList = (): Promise<Recording[]> =>
  select<Recording>(`${SELECT} ORDER BY started_at_us DESC LIMIT 200`);

export const recordingsInState = (states: readonly Recording['state'][]): Promise<Recording[]> =>
  select<Recording>(`${SELECT} WHERE state IN (SELECT value FROM json_each(?))`, [JSON.stringify(states)]);

/** How far a recording is; undefined for none. */
export const recordingState = async (id: string): Promise<Recording['state'] | undefined> =>
  (await select<{ state: Recording['state'] }>('SELECT state FROM recordings WHERE id = ?', [id]))[0]?.state;

/** Some recordings, by their ids. */
export const recordingsById = (ids: readonly string[]): Promise<Recording[]> =>
  select<Recording>(`${SELECT} WHERE id IN (SELECT value FROM json_each(?)) ORDER BY started_at_us`, [
    JSON.stringify(ids)
  ]);

/** What a plan recorded, the oldest first. */
export const recordingsOfPlan = (planId: string): Promise<Recording[]> =>
  select<Recording>(`${SELECT} WHERE plan_id = ? ORDER BY started_at_us`, [planId]);

export interface StoredPlan {
  id: string;
  plan: RecordingPlan;
  createdAtUs: number;
}

export async function planList(): Promise<StoredPlan[]> {
  const rows = await select<{ id: string; body: string; createdAtUs: number }>(
    'SELECT id, body, created_at_us AS createdAtUs FROM recording_plans ORDER BY created_at_us'
  );
  return rows.map(({ id, body, createdAtUs }) => ({
    id,
    plan: JSON.parse(body) as RecordingPlan,
    createdAtUs
  }));
}

/** Whether a profile was looked at by who sums recordings up, after the requests of its time were known. */
export async function isCondensed(evidenceId: string): Promise<boolean> {
  const rows = await select('SELECT 1 FROM profile_condensed WHERE evidence_id = ?', [evidenceId]);
  return rows.length > 0;
}

/** The process with this id that sent spans last. */
export async function resourceOfPid(
  pid: number
): Promise<{ service: string; host: string; release: string } | undefined> {
  const [row] = await select<{ service: string; host: string; release: string }>(
    `SELECT s.name AS service, h.name AS host, l.name AS "release" FROM resources r
      JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id JOIN releases l ON l.id = r.release_id
      WHERE r.pid = ? ORDER BY r.id DESC LIMIT 1`,
    [pid]
  );
  return row;
}
