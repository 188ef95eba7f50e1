import { LoadPlan } from '@tromix/core/load/plan';
import * as v from 'valibot';
import { select } from '../db/reader';

/** A load run as lists show it. */
export interface LoadRunItem {
  /** Its number, as the scope names it. */
  id: number;
  key: string;
  name: string;
  /** `running`, or how it ended. */
  state: string;
  message: string;
  /** Its file; '' until it has ended. */
  evidenceId: string;
  startedAtUs: number;
  endUs: number;
  plan: LoadPlan;
  /** Recordings made on the way, by their ids. */
  recordings: string[];
}

const COLUMNS =
  'id, key, name, state, message, evidence_id AS evidenceId, started_at_us AS startedAtUs, end_us AS endUs, plan, recordings';
type Stored = Omit<LoadRunItem, 'plan' | 'recordings'> & { plan: string; recordings: string };
const MOST_LISTED = 500;

/** Load runs, the newest first. */
export async function loadRuns(): Promise<LoadRunItem[]> {
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM load_runs ORDER BY started_at_us DESC LIMIT ${MOST_LISTED}`
  );
  return rows.flatMap(itemOf);
}

/** The one of this number; null for none. */
export async function loadRun(id: number): Promise<LoadRunItem | null> {
  return (
    (await select<Stored>(`SELECT ${COLUMNS} FROM load_runs WHERE id = ?`, [id])).flatMap(itemOf)[0] ?? null
  );
}

/** The one of this key, or whose file is this piece of evidence; null for none. */
export async function loadRunOf(keyOrEvidence: string): Promise<LoadRunItem | null> {
  const rows = await select<Stored>(
    `SELECT ${COLUMNS} FROM load_runs WHERE key = ?1 OR (evidence_id = ?1 AND evidence_id <> '')`,
    [keyOrEvidence]
  );
  return rows.flatMap(itemOf)[0] ?? null;
}

/** A run as the scope sentence and the time rail name it. */
export interface NamedRun {
  id: number;
  name: string;
  startedAtUs: number;
  /** Epoch microseconds; of one under way null. */
  endedAtUs: number | null;
}

/** Runs that touch a window, and the one of this number, the newest first. */
export async function namedRuns(
  fromUs: number,
  toUs: number,
  chosen: number | undefined
): Promise<NamedRun[]> {
  return select<NamedRun>(
    `SELECT id, name, started_at_us AS startedAtUs, CASE state WHEN 'running' THEN NULL ELSE started_at_us + end_us END AS endedAtUs
      FROM load_runs WHERE id = ?3 OR (started_at_us < ?2 AND (state = 'running' OR started_at_us + end_us >= ?1))
      ORDER BY started_at_us DESC LIMIT 50`,
    [fromUs, toUs, chosen ?? 0]
  );
}

/** The outermost request of each of some traces, as `trace/span`; traces of which no request was sent here are left out. */
export async function requestsOfTraces(traceIds: readonly string[]): Promise<Record<string, string>> {
  const rows = await select<{ traceId: string; spanId: string }>(
    `SELECT trace_id AS traceId, span_id AS spanId, max(duration_ns) FROM requests
      WHERE trace_id IN (SELECT value FROM json_each(?)) GROUP BY trace_id`,
    [JSON.stringify(traceIds)]
  );
  return Object.fromEntries(rows.map(({ traceId, spanId }) => [traceId, `${traceId}/${spanId}`]));
}

/** A plan that this version cannot read is none it can show. */
function itemOf({ plan, recordings, ...row }: Stored): LoadRunItem[] {
  const read = v.safeParse(LoadPlan, JSON.parse(plan));
  return read.success ? [{ ...row, plan: read.output, recordings: JSON.parse(recordings) as string[] }] : [];
}
