import { choiceOf } from '$lib/choice';
import { attributeOf, DEFAULT_COLUMNS, GROUPINGS, SORT_NAMES, type Sort } from '$lib/request-choices';
import { rowsAsked } from '$lib/rows-asked';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { countOf } from '$lib/server/queries/background';
import { attributeNames } from '$lib/server/queries/attributes';
import { identitiesOf } from '$lib/server/queries/failures';
import { groupsById } from '$lib/server/queries/names-by-id';
import { requestsOf } from '$lib/server/queries/requests';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = url.searchParams.get('sort') ?? '';
  const sort: Sort = choiceOf(SORT_NAMES, asked, 'duration');
  const by = url.searchParams.get('by') ?? '';
  const groupBy = (GROUPINGS as readonly string[]).includes(by) || attributeOf(by) ? by : '';
  const columns = (url.searchParams.get('cols') ?? DEFAULT_COLUMNS).split(',').slice(0, 20);
  const scope = scopeFrom(url.searchParams);
  const attributes = columns.map(attributeOf).filter((name) => name !== null);
  const nowMs = Date.now();
  const [requests, names, background, group, failures] = await Promise.all([
    requestsOf(scope, { sort, groupBy, columns: attributes, most: rowsAsked(url.searchParams) }, nowMs),
    attributeNames(),
    countOf(scope, scopeWindow(scope, nowMs)),
    scope.group === undefined ? null : groupsById([scope.group]),
    scope.failure === undefined ? null : identitiesOf([scope.failure])
  ]);
  return {
    sort,
    groupBy,
    columns,
    requests,
    background,
    attributeNames: names,
    group: group?.get(scope.group!) ?? null,
    failure: failures?.get(scope.failure!) ?? null
  };
};
