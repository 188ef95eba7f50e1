import type { TimeWindow } from '$lib/scope';
import { ROLLUP_DAYS } from '../ingest/sweeper';
import { STEPS, type Step } from '../ingest/rollup';

/** A run of bins of one step: from `from` up to, not including, `to`. */
export interface BinRange {
  step: Step;
  from: number;
  to: number;
}

const MINUTE_US = 60e6;

/** The finest step whose roll-ups reach back to a moment. */
function finestAt(minute: number, nowMinute: number): number {
  return STEPS.findIndex((step) => nowMinute - minute <= ROLLUP_DAYS[step] * 1440);
}

/**
 * A window as few runs of bins: the coarsest steps that fit inside it, finer ones at its edges, so that sums over it are
 * right to the minute as far as minutes are kept, and few rows are read however long it is.
 * @param steps those a table has, ascending.
 */
export function rangesOf(window: TimeWindow, nowMs: number, steps: readonly Step[] = STEPS): BinRange[] {
  const nowMinute = Math.floor(nowMs / 60_000);
  const from = Math.floor(window.fromUs / MINUTE_US);
  const to = Math.ceil(window.toUs / MINUTE_US);
  const finest =
    steps.find((step) => STEPS.indexOf(step) >= finestAt(from, nowMinute)) ?? steps[steps.length - 1];
  const usable = steps.filter((step) => step >= finest);
  const ranges: BinRange[] = [];
  /** Fills [a, b), minutes, beginning with the step at `level`. */
  const fill = (a: number, b: number, level: number): void => {
    if (b <= a) return;
    const step = usable[level];
    if (level === 0) {
      ranges.push({ step, from: Math.floor(a / step), to: Math.ceil(b / step) });
      return;
    }
    const first = Math.ceil(a / step);
    const last = Math.floor(b / step);
    if (last <= first) {
      fill(a, b, level - 1);
      return;
    }
    fill(a, first * step, level - 1);
    ranges.push({ step, from: first, to: last });
    fill(last * step, b, level - 1);
  };
  fill(from, to, usable.length - 1);
  return ranges;
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
