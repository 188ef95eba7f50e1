import { requestsOf, SORTS, type Sort } from '$lib/server/queries/requests';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  const asked = url.searchParams.get('sort') ?? '';
  const sort: Sort = asked in SORTS ? (asked as Sort) : 'duration';
  return { sort, requests: await requestsOf(scopeFrom(url.searchParams), sort, Date.now()) };
};
