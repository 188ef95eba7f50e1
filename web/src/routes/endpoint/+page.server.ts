import { choiceOf } from '$lib/choice';
import { SLOW_KINDS, type SlowKind } from '$lib/endpoint-choices';
import { endpointOf } from '$lib/server/queries/endpoint';
import { mostFailing } from '$lib/server/queries/failures';
import { overviewOf } from '$lib/server/queries/overview';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = url.searchParams.get('slow') ?? '';
  const slow: SlowKind = choiceOf(SLOW_KINDS, asked, 'tenth');
  const scope = scopeFrom(url.searchParams);
  const now = Date.now();
  const [endpoint, failing] = scope.endpoint
    ? await Promise.all([endpointOf(scope, slow, now), mostFailing(scope, now)])
    : [null, []];
  // Without one, or with one that is not there: those there are.
  return { endpoint, failing, list: endpoint ? null : await overviewOf({ ...scope, endpoint: '' }, now) };
};
