import { SLOW_KINDS, type SlowKind } from '$lib/endpoint-choices';
import { endpointOf } from '$lib/server/queries/endpoint';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = url.searchParams.get('slow') ?? '';
  const slow: SlowKind = asked in SLOW_KINDS ? (asked as SlowKind) : 'tenth';
  const scope = scopeFrom(url.searchParams);
  return { endpoint: scope.endpoint ? await endpointOf(scope, slow, Date.now()) : null };
};
