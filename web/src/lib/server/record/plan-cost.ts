import { formatDuration, formatShare } from '@tromix/core/text/format';
import type { SlicePlan } from './plan-schema';

/** Of so many recordings the middle one counts: one that something else disturbed must not end a plan. */
const LOOKED_AT = 5;
/** Sampling itself is measured at the first recording, and then every so often: to measure costs more than to record. */
export const MEASURED_EVERY_MS = 60 * 60_000;
/** Thinned beyond this a plan ends. Minutes. */
const RAREST = 60;

/** What is known of a recording’s cost, as it is stored. */
export interface Costed {
  state: string;
  costLow: number | null;
  costHigh: number | null;
  cpuDuring: number | null;
  handlingUs: number | null;
  startedAtUs: number;
}

/**
 * What a plan costs, parts of a core, as measured: what beginning and handing over took, which is told too high, since the program's own work in it is not
 * told apart; and what the same work took longer while it was sampled, of the CPU that was used meanwhile.
 * @param recorded its recordings, the oldest first @returns null before anything was measured
 */
export function planCost(plan: SlicePlan, recorded: readonly Costed[]): number | null {
  const measured = recorded.findLast(({ costLow, costHigh }) => costLow !== null && costHigh !== null);
  const longer = measured ? Math.max(0, (measured.costLow! + measured.costHigh!) / 2) : 0;
  const each = recorded
    .filter(({ state, handlingUs }) => state === 'saved' && handlingUs !== null)
    .slice(-LOOKED_AT)
    .map(({ handlingUs, cpuDuring }) => handlingUs! / 1e6 + longer * (cpuDuring ?? 0) * plan.seconds)
    .sort((a, b) => a - b);
  return each.length === 0 ? null : each[each.length >> 1] / (plan.when.everyMinutes * 60);
}

/** Whether the next recording of a plan measures what sampling costs. */
export function measuresNext(recorded: readonly Costed[], nowMs: number): boolean {
  const measured = recorded.findLast(({ costLow }) => costLow !== null);
  return !measured || nowMs - measured.startedAtUs / 1000 >= MEASURED_EVERY_MS;
}

/** The plan within its budget: thinned, or ended, where it costs more. @returns null where it may go on as it is */
export function withinBudget(plan: SlicePlan, recorded: readonly Costed[]): SlicePlan | null {
  const cost = planCost(plan, recorded);
  const { everyMinutes, budget } = plan.when;
  if (cost === null || cost <= budget) return null;
  const words = `It cost ${formatShare(cost)} of a core, more than its budget of ${formatShare(budget)}`;
  // What measuring itself takes is in no budget: it is done at the first recording and every hour.
  const rarer = Math.min(RAREST, everyMinutes * 2);
  if (everyMinutes >= RAREST) return { ...plan, ended: true, note: `${words}: it ended.` };
  return {
    ...plan,
    when: { ...plan.when, everyMinutes: rarer },
    note: `${words}: it records every ${formatDuration(rarer * 60e9)} now.`
  };
}
