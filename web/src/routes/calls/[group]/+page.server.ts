import { error } from '@sveltejs/kit';
import { callGroupOf } from '$lib/server/queries/calls/call-group';
import { failuresOfCall } from '$lib/server/queries/failures';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, depends }) => {
  depends('tromix:data');
  const scope = scopeFrom(url.searchParams);
  const nowMs = Date.now();
  const page = /^\d{1,9}$/.test(params.group) ? await callGroupOf(scope, Number(params.group), nowMs) : null;
  if (!page) error(404, 'There is no call group of that number.');
  return {
    calls: page,
    failing: await failuresOfCall({ ...scope, group: undefined }, nowMs, page.group.fingerprint)
  };
};
