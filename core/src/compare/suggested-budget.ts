import type { Budget } from './budget';
import type { ComparedSide } from './compared-side';
import { howSure, LEAST_SAMPLES } from './how-sure';
import { momentsOf } from '../stats/moments';

/** Room above today's figures. */
export const HEADROOM = 0.25;
/** How much slower than side A the median may get. */
const SLOWER_BY = 0.1;
/** The least that is allowed of calls and of failures. */
const LEAST_CALLS = 1;
const LEAST_FAILED = 0.01;

/** An endpoint of today. */
export interface Measurable {
  service: string;
  endpoint: string;
  side: ComparedSide;
}

/**
 * A budget that today's figures keep, with headroom: limits lie so much above the upper end of their intervals. Endpoints with too few requests get none.
 * @param headroom share above today's figures.
 */
export function suggestedBudget(endpoints: readonly Measurable[], headroom = HEADROOM): Budget {
  return {
    budget: 1,
    endpoints: endpoints
      .filter(({ side }) => side.durationsNs.length >= LEAST_SAMPLES)
      .map(({ service, endpoint, side }) => {
        const { changes } = howSure({ before: side.durationsNs, after: side.durationsNs });
        const limitMs = (high: number): number => rounded((high / 1e6) * (1 + headroom));
        const { mean } = momentsOf(side.calls);
        return {
          service,
          endpoint,
          medianMs: limitMs(changes.median!.sidesWithin.after.high),
          ...(changes.p95 && { p95Ms: limitMs(changes.p95.sidesWithin.after.high) }),
          slowerBy: SLOWER_BY,
          callsPerRequest: rounded(Math.max(LEAST_CALLS, mean * (1 + headroom))),
          failedShare: rounded(
            Math.max(LEAST_FAILED, (side.failed / side.durationsNs.length) * (1 + headroom))
          )
        };
      }),
    functions: [],
    heaps: []
  };
}

/** Three digits, rounded up: a limit is not to be below what it was made of. */
function rounded(value: number): number {
  const step = 10 ** (Math.floor(Math.log10(value)) - 2);
  return Number((Math.ceil(value / step) * step).toPrecision(4));
}
