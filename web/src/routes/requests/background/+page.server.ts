import { backgroundOf } from '$lib/server/queries/background';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:data');
  return {
    title: 'Background work',
    background: await backgroundOf(scopeFrom(url.searchParams), Date.now())
  };
};
