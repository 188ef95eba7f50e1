import type { Condition } from './condition';
import type { Judged } from './verdict';

/** How a watch stands: `new` until a first minute had a value. */
export type WatchState = 'new' | 'off' | 'on' | 'no data';

/** What is known of a watch from one minute to the next. */
export interface Standing {
  state: WatchState;
  /** Minute in which it came to stand so. */
  since: number;
  /** Minutes in a row, up to the last, that were over the limit, back within the one for off, and without a value. */
  over: number;
  back: number;
  none: number;
  /** The last value; null where the last minute had none. */
  value: number | null;
  before: number | null;
}

export const standingAt = (minute: number): Standing => ({
  state: 'new',
  since: minute,
  over: 0,
  back: 0,
  none: 0,
  value: null,
  before: null
});

/**
 * How a watch stands after one more minute.
 *
 * - It comes **on** after `for` minutes in a row over the limit.
 * - It goes **off** after `for` minutes in a row within the limit for off. Between the two limits it stays as it is, and no row goes on.
 * - It has **no data** after `silentAfter` minutes in a row without a value. A single such minute ends the rows of the others.
 * - With the first value after that it is off, and may come on as from the beginning.
 */
export function nextStanding(
  last: Standing,
  { verdict, value, before }: Judged,
  condition: Pick<Condition, 'for' | 'silentAfter'>,
  minute: number
): Standing {
  const next: Standing = {
    state: last.state,
    since: last.since,
    over: verdict === 'over' ? last.over + 1 : 0,
    back: verdict === 'back' ? last.back + 1 : 0,
    none: verdict === 'none' ? last.none + 1 : 0,
    value,
    before
  };
  const become = (state: WatchState): void => {
    if (next.state === state) return;
    next.state = state;
    next.since = minute;
  };
  if (verdict === 'none') {
    if (next.none >= condition.silentAfter) become('no data');
    return next;
  }
  if (next.state === 'new' || next.state === 'no data') become('off');
  if (next.over >= condition.for) become('on');
  else if (next.state === 'on' && next.back >= condition.for) become('off');
  return next;
}
