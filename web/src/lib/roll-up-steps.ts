/** Lengths of the bins of roll-ups, minutes: each reading takes the one that fits its window. */
export const STEPS = [1, 10, 60, 360, 1440] as const;
export type Step = (typeof STEPS)[number];

/** How long roll-ups of each step are kept, days. What is older is read at a coarser step. */
export const ROLLUP_DAYS: Record<Step, number> = { 1: 8, 10: 32, 60: 100, 360: 400, 1440: 1100 };

/** The steps that every table of sums has. */
const COMMON_STEPS: readonly Step[] = [1, 60, 1440];

/**
 * The finest bins in which a moment is known on every view, minutes. Two moments of one coarser bin are known alike: a window within the bin in which
 * finer ones end would otherwise have no end.
 */
export function binAt(atMs: number, nowMs: number): Step {
  const nowMinute = Math.floor(nowMs / 60_000);
  const found = COMMON_STEPS.find((step, i) => {
    const coarser = COMMON_STEPS[i + 1] ?? step;
    const begins = Math.floor(atMs / 60_000 / coarser) * coarser;
    return nowMinute - begins <= ROLLUP_DAYS[step] * 1440;
  });
  return found ?? 1440;
}
