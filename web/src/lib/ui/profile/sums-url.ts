import { scopeQuery, type Scope, type TimeWindow } from '$lib/scope';

/** Where the recordings of a scope are to be had as sums. @param window the time, so that the same is asked later too */
export const sumsUrl = (
  scope: Scope,
  { fromUs, toUs }: TimeWindow,
  change: Partial<Scope> = {},
  measure = ''
): string => {
  const query = new URLSearchParams(scopeQuery(scope, { ...change, from: fromUs / 1000, to: toUs / 1000 }));
  if (measure) query.set('measure', measure);
  return `/api/profile-sums?${query}`;
};
