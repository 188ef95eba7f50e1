import { liveState } from '$lib/server/live';
import { countsOf, namesOf } from '$lib/server/queries/names';
import { railOf } from '$lib/server/queries/rail';
import { scopeFrom } from '$lib/scope';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  // Before anything is read: what comes in meanwhile is told to the page afterwards.
  const live = liveState();
  const [names, rail, counts] = await Promise.all([namesOf(scope), railOf(scope, nowMs), countsOf()]);
  return { scope, names, rail, counts, nowMs, live };
};
