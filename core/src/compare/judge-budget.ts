import type { InspectedProfile } from '../inspect/profile';
import type { Sides } from '../sides';
import type { Budget } from './budget';
import { keyOfEndpoint, type ComparedBatches } from './compared-batches';
import type { ComparedSide } from './compared-side';
import { judgeEndpoint } from './judge-endpoint';
import { judgeFunction, judgeHeap, type JudgedHeaps } from './judge-files';
import type { Judgement } from './judgement';

/** Everything a budget is held against. */
export interface BudgetEvidence {
  /** The endpoints of side B. */
  endpoints: ReadonlyMap<string, ComparedSide>;
  /** Those that side A has too. */
  compared: ComparedBatches['endpoints'];
  /** Profiles of side B, with all their functions. */
  profiles: readonly InspectedProfile[];
  /** Heap dumps with all their classes. */
  heaps: Sides<JudgedHeaps['before']>;
}

/** Judges each line of a budget, in the order of its file. @param strict figures are judged without their intervals */
export function judgeBudget(
  budget: Budget,
  { endpoints, compared, profiles, heaps }: BudgetEvidence,
  strict = false
): Judgement[] {
  return [
    ...budget.endpoints.flatMap((one) => {
      const after = endpoints.get(keyOfEndpoint(one.service, one.endpoint));
      const both = compared.find(
        ({ service, endpoint }) => service === one.service && endpoint === one.endpoint
      );
      return judgeEndpoint(one, after ? { after, comparison: both?.comparison ?? null } : null, strict);
    }),
    ...budget.functions.map((one) => judgeFunction(one, profiles, strict)),
    ...budget.heaps.map((one) => judgeHeap(one, heaps))
  ];
}
