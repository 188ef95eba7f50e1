import { choiceOf } from '$lib/choice';
import { SLOW_KINDS, type SlowKind } from '$lib/endpoint-choices';
import { endpointOf } from '$lib/server/queries/endpoint';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = url.searchParams.get('slow') ?? '';
  const slow: SlowKind = choiceOf(SLOW_KINDS, asked, 'tenth');
  const scope = scopeFrom(url.searchParams);
  return { endpoint: scope.endpoint ? await endpointOf(scope, slow, Date.now()) : null };
};
