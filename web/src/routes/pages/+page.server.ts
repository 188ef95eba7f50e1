import { audienceOf, PAGE_PARAMS } from '$lib/page-choices';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { trialLoads } from '$lib/server/queries/pages/listed-loads';
import { pageScopeNames } from '$lib/server/queries/pages/page-scope-names';
import { pagesOf } from '$lib/server/queries/pages/pages';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const audience = audienceOf(scope, PAGE_PARAMS.read(url.searchParams));
  const [list, pageNames, trials] = await Promise.all([
    pagesOf(audience, window, nowMs),
    pageScopeNames(),
    trialLoads()
  ]);
  return { window, list, pageNames, trials };
};
