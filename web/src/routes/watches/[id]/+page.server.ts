import { error } from '@sveltejs/kit';
import { watchName } from '@tromix/core/watch/watch';
import { firingsOf, watchList } from '$lib/server/watch/queries';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('tromix:watches');
  const nowMs = Date.now();
  const [all, firings] = await Promise.all([watchList(nowMs), firingsOf(params.id)]);
  const one = all.find(({ id }) => id === params.id);
  if (!one) error(404, 'This watch is not here. It may have been removed.');
  return { title: watchName(one.watch), one, firings, readMs: nowMs };
};
