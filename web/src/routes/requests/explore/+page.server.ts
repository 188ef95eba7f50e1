import { EXPLORE_PARAMS } from '$lib/explore-choices';
import { scopeFrom } from '$lib/scope';
import { explore } from '$lib/server/explore/explore';
import { attributeNames } from '$lib/server/queries/attributes';
import { groupsById } from '$lib/server/queries/names-by-id';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const choices = EXPLORE_PARAMS.read(url.searchParams);
  const [explored, names, group] = await Promise.all([
    explore(scope, choices, Date.now()),
    attributeNames(),
    scope.group === undefined ? null : groupsById([scope.group])
  ]);
  return {
    title: 'Explore',
    choices,
    explored,
    attributeNames: names,
    group: group?.get(scope.group!) ?? null
  };
};
