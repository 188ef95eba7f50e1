import { MOST_FINDINGS } from '$lib/open-finding';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { findingsOf } from '$lib/server/queries/findings';
import { allTimeOf } from '$lib/server/queries/open-findings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const choice = { limit: MOST_FINDINGS, aside: true };
  return {
    window,
    findings: await findingsOf(scope, window, nowMs, allTimeOf(scope, nowMs), choice)
  };
};
