import type { Condition } from './condition';
import { standingAt } from './state';
import { firingAfter, walk, type Firing } from './walk';
import type { Known } from './windows';

/** What a watch would have said over some time in the past. */
export interface PastRun {
  from: number;
  to: number;
  firings: Firing[];
  /** Minutes that had a value, and something to hold it against where that is asked. */
  judged: number;
  /** The values, minute by minute; null where there was none. */
  values: (number | null)[];
  /** How many of the minutes were over the limit, also in rows too short to come on. */
  overMinutes: number;
}

/** Runs a condition over the minutes from one to another, both included, as if it had watched them. */
export function runPast(condition: Condition, known: Known, from: number, to: number): PastRun {
  const run: PastRun = { from, to, firings: [], judged: 0, values: [], overMinutes: 0 };
  let open: Firing | null = null;
  for (const step of walk(condition, known, standingAt(from), from, to)) {
    const { verdict, value } = step.judged;
    run.values.push(value);
    if (verdict !== 'none') run.judged++;
    if (verdict === 'over') run.overMinutes++;
    open = firingAfter(step, open, condition);
    if (open && open.off !== null) {
      run.firings.push(open);
      open = null;
    }
  }
  if (open) run.firings.push(open);
  return run;
}
