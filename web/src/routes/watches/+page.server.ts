import { firingsOf, hookList, unreadableWatches, watchList } from '$lib/server/watch/queries';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:watches');
  const nowMs = Date.now();
  const [watches, firings, hooks, unreadable] = await Promise.all([
    watchList(nowMs),
    firingsOf(),
    hookList(),
    unreadableWatches()
  ]);
  return { title: 'Watches', watches, firings, hooks, unreadable, readMs: nowMs };
};
