import { BACK_MINUTES, sideOf, type Condition } from './condition';
import { nextStanding, type Standing } from './state';
import { judge, type Judged } from './verdict';
import { comparedIn, type Known } from './windows';

/** A minute, what it says, and how the watch stands after it. */
export interface Step {
  minute: number;
  judged: Judged;
  standing: Standing;
}

/**
 * Judges the minutes from one to another, both included, and tells how the watch stands after each.
 * @param known what is needed of the minutes before them too: see `needed`
 */
export function* walk(
  condition: Condition,
  known: Known,
  start: Standing,
  from: number,
  to: number
): Generator<Step> {
  let standing = start;
  let minute = from;
  for (const compared of comparedIn(known, condition, from, to)) {
    const judged = judge(condition, compared);
    standing = nextStanding(standing, judged, condition, minute);
    yield { minute, judged, standing };
    minute++;
  }
}

/** A time for which a watch was on. */
export interface Firing {
  /** The minute after which it came on. */
  on: number;
  /** The minute after which it was on no more; null while it is. */
  off: number | null;
  /** Whether it ended since there was no value any more. */
  byNoData: boolean;
  /** The value when it came on, and what it was held against then; null for a number. */
  value: number | null;
  before: number | null;
  /** The value furthest on the worse side while it was on. */
  worst: number | null;
}

/** What a step adds to the times for which a watch was on: it begins one, changes the last, or leaves it. @param last the one that goes on; null where none does */
export function firingAfter(
  { minute, judged, standing }: Step,
  last: Firing | null,
  condition: Condition
): Firing | null {
  if (last === null)
    return standing.state === 'on'
      ? {
          on: minute,
          off: null,
          byNoData: false,
          value: judged.value,
          before: judged.before,
          worst: judged.value
        }
      : null;
  if (standing.state !== 'on') return { ...last, off: minute, byNoData: standing.state === 'no data' };
  const sign = sideOf(condition) === 'above' ? 1 : -1;
  const isWorse = judged.value !== null && (last.worst === null || sign * judged.value > sign * last.worst);
  return isWorse ? { ...last, worst: judged.value } : last;
}

/** The minutes that have to be known, besides those of releases, to judge some: ranges with both ends. */
export function needed({ limit, over }: Condition, from: number, to: number): [from: number, to: number][] {
  const present: [number, number] = [from - over + 1, to];
  if (limit.by === 'number' || limit.against === 'release') return [present];
  const back = BACK_MINUTES[limit.against];
  return [[present[0] - back, to - back], present];
}
