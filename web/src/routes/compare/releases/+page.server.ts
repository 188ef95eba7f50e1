import { error } from '@sveltejs/kit';
import { scopeFrom } from '$lib/scope';
import { sumsWindow } from '$lib/server/queries/profile-sums';
import type { PageServerLoad } from './$types';

/** The recordings of a scope under two releases. */
export const load: PageServerLoad = async ({ url }) => {
  const before = url.searchParams.get('before') ?? '';
  const after = url.searchParams.get('after') ?? '';
  if (before === after) error(400, 'Two different releases are to be named, as before and after.');
  return { before, after, window: await sumsWindow(scopeFrom(url.searchParams), Date.now()) };
};
