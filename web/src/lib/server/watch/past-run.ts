import type { Condition } from '@tromix/core/watch/condition';
import { runPast, type PastRun } from '@tromix/core/watch/past';
import { reader, select } from '../db/reader';
import { readKnown } from './known';

/** So many minutes before the first data are drawn, so that it is seen where they begin. */
const LEAD = 5;
/** Points of the line that is drawn of it. */
const MOST_POINTS = 700;

/** What a watch would have said, and the figure as a line of fewer points. */
export interface DrawnPast extends Omit<PastRun, 'values'> {
  /** Minutes of one point; of each the worst is drawn, so that no crossing is lost. */
  step: number;
  values: (number | null)[];
  /** Whether it begins later than was asked, with the first data there are. */
  isShorter: boolean;
}

/** Runs a condition over the days that are over. */
export async function pastRun(condition: Condition, days: number, nowMs: number): Promise<DrawnPast> {
  const to = Math.floor(nowMs / 60_000) - 1;
  const [{ first }] = await select<{ first: number | null }>('SELECT min(first_us) AS first FROM resources');
  const dataFrom = first === null ? null : Math.floor(first / 60e6);
  const asked = to - Math.round(days * 1440) + 1;
  const isShorter = dataFrom !== null && dataFrom > asked && dataFrom < to;
  const from = isShorter ? Math.max(asked, dataFrom - LEAD) : asked;
  const [known] = await readKnown(await reader(), [condition], { from, to });
  const { values, ...run } = runPast(condition, known, from, to);
  const step = Math.max(1, Math.ceil(values.length / MOST_POINTS));
  const side = condition.limit.by === 'number' ? condition.limit.side : 'above';
  const worst = side === 'above' ? Math.max : Math.min;
  const drawn: (number | null)[] = [];
  for (let at = 0; at < values.length; at += step) {
    const some = values.slice(at, at + step).filter((value) => value !== null);
    drawn.push(some.length === 0 ? null : worst(...some));
  }
  return { ...run, step, values: drawn, isShorter };
}
