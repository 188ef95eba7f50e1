import { error } from '@sveltejs/kit';
import { audienceOf, PAGE_PARAMS } from '$lib/page-choices';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { oneLoad } from '$lib/server/queries/pages/one-load';
import { pageScopeNames } from '$lib/server/queries/pages/page-scope-names';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, params }) => {
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const audience = audienceOf(scope, PAGE_PARAMS.read(url.searchParams));
  const [one, pageNames] = await Promise.all([
    oneLoad(params.trace, audience, window, nowMs),
    pageScopeNames()
  ]);
  if (!one) error(404, 'This page load is not kept here. It may have been removed, or was never sent.');
  return { window: one.window, one, pageNames };
};
