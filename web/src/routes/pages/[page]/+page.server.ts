import { error } from '@sveltejs/kit';
import { audienceOf, PAGE_PARAMS } from '$lib/page-choices';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { onePage } from '$lib/server/queries/pages/one-page';
import { pageScopeNames } from '$lib/server/queries/pages/page-scope-names';
import { pageName } from '$lib/server/queries/pages/pages';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, params, depends }) => {
  depends('tromix:data');
  const id = /^\d{1,15}$/.test(params.page) ? Number(params.page) : -1;
  const named = await pageName(id);
  if (!named) error(404, 'There is no such page. It may have been renamed; Pages lists those there are.');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const window = scopeWindow(scope, nowMs);
  const audience = audienceOf(scope, PAGE_PARAMS.read(url.searchParams));
  const [page, pageNames] = await Promise.all([onePage(audience, window, nowMs, id), pageScopeNames()]);
  return { window, id, named, page, pageNames };
};
