import { error, json } from '@sveltejs/kit';
import { requestOf } from '$lib/server/queries/request';
import { scopeFrom } from '$lib/scope';
import type { RequestHandler } from './$types';

/** One request as its page is given it: to be held beside another. */
export const GET: RequestHandler = async ({ params, url }) => {
  const request = await requestOf(scopeFrom(url.searchParams), params.trace, params.span, Date.now());
  if (!request) error(404, 'This request is not kept here any more.');
  return json(request);
};
