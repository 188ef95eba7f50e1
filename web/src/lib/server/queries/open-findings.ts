import { MOST_FINDINGS } from '$lib/open-finding';
import { scopeWindow, type Scope } from '$lib/scope';
import { countOpenFindings } from './findings';
import { totalsIn } from './rollups';
import { addTotals, emptyTotals } from './totals';

/** How many open findings the view of a scope lists. */
export async function openFindingsOf(scope: Scope, nowMs: number): Promise<number> {
  const window = scopeWindow(scope, nowMs);
  return countOpenFindings(scope, window, nowMs, allTimeOf(scope, nowMs), MOST_FINDINGS);
}

/** All time in a scope, each nanosecond once. */
export async function allTimeOf(scope: Scope, nowMs: number): Promise<number> {
  const all = emptyTotals();
  const totals = await totalsIn(scope, scopeWindow(scope, nowMs), nowMs, 'endpoint');
  for (const one of totals.values()) addTotals(all, one);
  return all.exclusiveNs;
}
