import { error } from '@sveltejs/kit';
import { eachSide, type Side } from '@tromix/core/sides';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { trialLoads } from '$lib/server/queries/pages/listed-loads';
import { wholeLoads } from '$lib/server/queries/pages/whole-loads';
import type { PageServerLoad } from './$types';

/** Two loads of pages held against each other: those that were recorded can be chosen, others are named by the address. */
export const load: PageServerLoad = async ({ url }) => {
  const ids = eachSide({ before: '', after: '' }, (_, side: Side) => url.searchParams.get(side) ?? '');
  const [trials, whole] = await Promise.all([trialLoads(), wholeLoads(Object.values(ids).filter(Boolean))]);
  const pair = eachSide(ids, (id): PageLoad | null => {
    if (id === '') return null;
    const found = whole.find(({ traceId }) => traceId === id);
    if (!found) error(404, 'One of the two loads is not kept here. It may have been removed.');
    return found;
  });
  return { trials, pair };
};
