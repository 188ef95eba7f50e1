import type { Interval } from '../stats/interval';

export type BudgetState = 'kept' | 'broken' | 'not told';

/** One line of a budget, judged. */
export interface Judgement {
  /** What it is about: `berths GET /board`, a function, a class. */
  of: string;
  what: BudgetWhat;
  state: BudgetState;
  limit: number | string;
  /** Null where it cannot be told. */
  measured: number | null;
  within: Interval | null;
  /** Why it is not told; '' otherwise. */
  reason: string;
}

/** Milliseconds, a share, a count, a rule, a share of a profile, bytes. */
export type BudgetWhat =
  | 'medianMs'
  | 'p95Ms'
  | 'slowerBy'
  | 'callsPerRequest'
  | 'failedShare'
  | 'forbidden'
  | 'share'
  | 'growthBytes';

/** What was measured, and how sure that is. */
export interface Measured {
  measured: number | null;
  within: Interval | null;
  reason: string;
}
export const notTold = (reason: string): Measured => ({ measured: null, within: null, reason });
export function stateOf(limit: number, { measured, within }: Measured, strict: boolean): BudgetState {
  if (measured === null) return 'not told';
  return (strict || !within ? measured : within.low) > limit ? 'broken' : 'kept';
}

/** The sum of a build: broken where one is, else not told where one is, else kept. */
export function worstOf(judgements: readonly Pick<Judgement, 'state'>[]): BudgetState {
  const has = (wanted: BudgetState): boolean => judgements.some(({ state }) => state === wanted);
  return has('broken') ? 'broken' : has('not told') || judgements.length === 0 ? 'not told' : 'kept';
}
