import { error } from '@sveltejs/kit';
import { requestOf } from '$lib/server/queries/request';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url }) => {
  const request = await requestOf(scopeFrom(url.searchParams), params.trace, params.span, Date.now());
  if (!request)
    error(404, 'This request is not kept here. It may have been removed, or its spans have not come yet.');
  return { request };
};
