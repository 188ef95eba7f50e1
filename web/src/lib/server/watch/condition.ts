import { scopeFrom } from '$lib/scope';
import { latency, totalIn } from '../queries/rollups';

/** A condition on requests: the p95 of an endpoint lies above a limit. */
export interface Condition {
  by: 'p95';
  service: string;
  endpoint: string;
  overMs: number;
}

/** What was found of a condition. */
export interface Judgement {
  /** null where there are too few requests to say. */
  holds: boolean | null;
  /** What was measured, milliseconds; NaN where there are too few. */
  valueMs: number;
}

/** The p95 is taken over so many minutes. */
const MINUTES = 5;
/** Fewer requests say nothing of a p95. */
const MIN_REQUESTS = 20;

/** Judges a condition by the roll-ups of the last minutes. */
export async function judge({ service, endpoint, overMs }: Condition, nowMs: number): Promise<Judgement> {
  const window = { fromUs: (nowMs - MINUTES * 60_000) * 1000, toUs: nowMs * 1000 };
  const totals = await totalIn(scopeFrom(new URLSearchParams({ service, endpoint })), window, nowMs);
  if (totals.count < MIN_REQUESTS) return { holds: null, valueMs: NaN };
  const valueMs = latency(totals, [0.95])[0] / 1e6;
  return { holds: valueMs > overMs, valueMs };
}
