import type { TimeWindow } from '$lib/scope';
import { ROLLUP_DAYS, STEPS, type Step } from '$lib/roll-up-steps';

/** A run of bins of one step: from `from` up to, not including, `to`. */
export interface BinRange {
  step: Step;
  from: number;
  to: number;
}

const MINUTE_US = 60e6;

/**
 * A window as few runs of bins: the coarsest steps that fit inside it, finer ones at its edges, so that sums over it are
 * right to the finest bins that are kept of each moment, and few rows are read however long it is.
 * @param steps those a table has, ascending.
 */
export function rangesOf(window: TimeWindow, nowMs: number, steps: readonly Step[] = STEPS): BinRange[] {
  const nowMinute = Math.floor(nowMs / 60_000);
  const to = Math.ceil(window.toUs / MINUTE_US);
  const ranges: BinRange[] = [];
  for (let from = Math.floor(window.fromUs / MINUTE_US); from < to;) {
    const known = steps.findIndex((step) => nowMinute - from <= ROLLUP_DAYS[step] * 1440);
    const level = known < 0 ? steps.length - 1 : known;
    // Up to the moment of which finer bins are kept: there those go on, at the end of a coarse one.
    const step = steps[level];
    const finer = level === 0 ? Infinity : nowMinute - ROLLUP_DAYS[steps[level - 1]] * 1440;
    const until = Math.min(to, Math.max(from + 1, Math.ceil(finer / step) * step));
    fillRange(ranges, from, until, steps.slice(level));
    from = until;
  }
  return ranges;
}

/** Fills [a, b), minutes, by the last of the steps that fits inside, and by the ones before it at its edges. */
function fillRange(ranges: BinRange[], a: number, b: number, steps: readonly Step[]): void {
  if (b <= a) return;
  const step = steps[steps.length - 1];
  if (steps.length === 1) {
    ranges.push({ step, from: Math.floor(a / step), to: Math.ceil(b / step) });
    return;
  }
  const finer = steps.slice(0, -1);
  const first = Math.ceil(a / step);
  const last = Math.floor(b / step);
  if (last <= first) return fillRange(ranges, a, b, finer);
  fillRange(ranges, a, first * step, finer);
  ranges.push({ step, from: first, to: last });
  fillRange(ranges, last * step, b, finer);
}

/** The step for a series over a window: the finest that needs no more than so many bins and is kept for so long. */
export function seriesStep(
  window: TimeWindow,
  nowMs: number,
  maxBins: number,
  steps: readonly Step[] = STEPS
): Step {
  const minutes = (window.toUs - window.fromUs) / MINUTE_US;
  const oldest = Math.floor(nowMs / 60_000) - Math.floor(window.fromUs / MINUTE_US);
  return (
    steps.find((step) => minutes / step <= maxBins && oldest <= ROLLUP_DAYS[step] * 1440) ??
    steps[steps.length - 1]
  );
}

/** Bins of a step that a window touches. */
export function binsOf(window: TimeWindow, step: Step): { from: number; to: number } {
  return {
    from: Math.floor(window.fromUs / MINUTE_US / step),
    to: Math.ceil(window.toUs / MINUTE_US / step)
  };
}

const NAMES: Record<Step, string> = {
  1: 'minute',
  10: '10 minutes',
  60: 'hour',
  360: '6 hours',
  1440: 'day'
};

/** The step in words. */
export const stepName = (step: Step): string => NAMES[step];
