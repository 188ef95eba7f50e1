import { findingsOf } from '$lib/server/queries/findings';
import { totalsIn } from '$lib/server/queries/rollups';
import { emptyTotals, addTotals } from '$lib/server/queries/totals';
import { scopeFrom, scopeWindow } from '$lib/scope';
import type { PageServerLoad } from './$types';

const MAX_FINDINGS = 150;

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const all = emptyTotals();
  for (const totals of (await totalsIn(scope, window, nowMs, 'endpoint')).values()) addTotals(all, totals);
  return {
    window,
    findings: await findingsOf(scope, window, nowMs, all.exclusiveNs, { limit: MAX_FINDINGS, aside: true })
  };
};
