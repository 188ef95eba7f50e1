import { clearlyWorse } from './clearly-worse';
import type { Compared } from './compared';
import { sideOf, type Condition } from './condition';
import { figureOf, valueIn } from './figures';

/**
 * What one minute says: `over` the limit, `back` within the one for off, `between` the two; `none` where there is no value, or nothing to hold it against.
 */
export type Verdict = 'over' | 'back' | 'between' | 'none';

/** A minute as it was judged. */
export interface Judged {
  verdict: Verdict;
  /** null where too little tells of it. */
  value: number | null;
  /** What it was held against; null where it was held against a number, or there was too little. */
  before: number | null;
}

/** Judges a figure against its limit. */
export function judge(condition: Condition, compared: Compared): Judged {
  const { watched, limit, over } = condition;
  const figure = figureOf(watched);
  const value = valueIn(figure, compared.now, over);
  if (limit.by === 'number') {
    if (value === null) return { verdict: 'none', value, before: null };
    return { verdict: againstNumber(value, limit), value, before: null };
  }
  const before = compared.before && valueIn(figure, compared.before, compared.minutesBefore.length);
  if (value === null || before === null) return { verdict: 'none', value, before };
  const by = sideOf(condition) === 'above' ? value / before - 1 : before / value - 1;
  // What was nothing and is something is worse beyond every share.
  const worse = Number.isNaN(by) ? 0 : by;
  if (worse <= limit.off) return { verdict: 'back', value, before };
  const isOver = worse > limit.on && clearlyWorse(watched, compared);
  return { verdict: isOver ? 'over' : 'between', value, before };
}

function againstNumber(
  value: number,
  { side, on, off }: { side: 'above' | 'below'; on: number; off: number }
): Verdict {
  const sign = side === 'above' ? 1 : -1;
  if (sign * value > sign * on) return 'over';
  return sign * value <= sign * off ? 'back' : 'between';
}
