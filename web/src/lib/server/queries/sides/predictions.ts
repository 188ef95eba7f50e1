import {
  predictionOver,
  type Prediction,
  type PredictionState,
  type Savable
} from '@tromix/core/compare/prediction';
import type { Leavable } from '$lib/compared-scopes';
import { scopeWindow, type Scope } from '$lib/scope';
import { select, selectJson } from '../../db/reader';
import { pickedFilter } from './picked-filter';

/** What mending a finding was to make of the requests of a side. */
export interface Predicted {
  rule: string;
  subject: string;
  /** Null where nothing is saved by it, or no request is kept. */
  prediction: Prediction | null;
}

/** How the predictions kept here turned out. */
export interface PredictionScore {
  held: number;
  judged: number;
}

/** Requests it is worked out from at most: the newest. */
const MOST_READ = 5000;

/** What mending one finding was to make of the median of side A. */
export async function predictedFor(
  scope: Scope,
  leave: readonly Leavable[],
  { rule, subject }: { rule: string; subject: string },
  nowMs: number
): Promise<Predicted> {
  const { sql, args } = pickedFilter(scope, leave, scopeWindow(scope, nowMs));
  const rows = await selectJson<[durationNs: number, lowNs: number, highNs: number]>(
    `SELECT json_group_array(json_array(d, l, h)) FROM (
      SELECT r.duration_ns AS d, total(f.body->>'$.saving.lowNs') AS l, total(f.body->>'$.saving.highNs') AS h
      FROM (SELECT trace_id, span_id, duration_ns, start_us FROM requests r WHERE ${sql} ORDER BY r.start_us DESC LIMIT ${MOST_READ}) r
      LEFT JOIN findings f ON f.trace_id = r.trace_id AND f.span_id = r.span_id AND f.rule = ? AND f.subject = ?
      GROUP BY r.trace_id, r.span_id)`,
    [...args, rule, subject]
  );
  const requests = rows.map(([durationNs, lowNs, highNs]): Savable => ({ durationNs, lowNs, highNs }));
  const saves = requests.some(({ highNs }) => highNs > 0);
  return { rule, subject, prediction: saves ? predictionOver(requests) : null };
}

/** The predictions that are kept. */
export async function predictionScore(): Promise<PredictionScore> {
  const [row] = await select<PredictionScore>(
    "SELECT count(*) AS judged, coalesce(sum(state = 'held'), 0) AS held FROM predictions"
  );
  return row;
}

/** The one of this comparison and finding; null where it is not kept. */
export async function keptPrediction(
  sides: { a: string; b: string },
  { rule, subject }: { rule: string; subject: string }
): Promise<PredictionState | null> {
  const [row] = await select<{ state: PredictionState }>(
    'SELECT state FROM predictions WHERE side_a = ? AND side_b = ? AND rule = ? AND subject = ?',
    [sides.a, sides.b, rule, subject]
  );
  return row?.state ?? null;
}
