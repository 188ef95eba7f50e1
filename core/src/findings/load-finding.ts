import type { LoadPlan } from '../load/plan';
import type { Samples } from '../load/samples';
import type { Conclusion } from './finding';

/** What a rule found in a load run. The cost is the time requests waited for it, nanoseconds. */
export type FoundInLoad = Conclusion<{
  /** Step it is about; null for all. */
  step: number | null;
}>;
export type LoadFinding<Name extends string = string> = FoundInLoad & { rule: Name };

/** What a rule may look at: a run, as far as it has come. */
export interface LoadContext {
  plan: LoadPlan;
  samples: Samples;
  /** How long it has run, microseconds. */
  endUs: number;
}
