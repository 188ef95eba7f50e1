import type { LoadPlanInput } from '@tromix/core/load/plan';

/** What ship agents do, of whom some come by night: their requests show the failures that are planted. */
export const agentSteps = (gateway: string): LoadPlanInput['steps'] => [
  { weight: 60, method: 'POST', url: `${gateway}/calls/{1..900}/pilot?window=day` },
  { weight: 25, method: 'POST', url: `${gateway}/calls/{1..900}/pilot?window=night` },
  { weight: 15, method: 'POST', url: `${gateway}/goods/{1..400}/release` }
];
