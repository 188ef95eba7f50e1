import { overviewOf } from '$lib/server/queries/overview';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  return { overview: await overviewOf(scopeFrom(url.searchParams), Date.now()) };
};
