import { error } from '@sveltejs/kit';
import { callGroupOf } from '$lib/server/queries/calls';
import { scopeFrom } from '$lib/scope';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, depends }) => {
  depends('tromix:data');
  const page = /^\d{1,9}$/.test(params.group)
    ? await callGroupOf(scopeFrom(url.searchParams), Number(params.group), Date.now())
    : null;
  if (!page) error(404, 'There is no call group of that number.');
  return { calls: page };
};
