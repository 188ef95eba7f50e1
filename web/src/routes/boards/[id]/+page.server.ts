import { error } from '@sveltejs/kit';
import { watchName } from '@tromix/core/watch/watch';
import { scopeFrom, scopeWindow } from '$lib/scope';
import { boardOf } from '$lib/server/watch/boards';
import { reader } from '$lib/server/db/reader';
import { firingsIn } from '$lib/server/watch/queries';
import { readWatches } from '$lib/server/watch/stored';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, url, depends }) => {
  depends('tromix:boards');
  depends('tromix:watches');
  depends('tromix:data');
  const board = await boardOf(params.id);
  if (!board) error(404, 'This board is not here. It may have been removed.');
  const window = scopeWindow(scopeFrom(url.searchParams), Date.now());
  const minutes = [Math.floor(window.fromUs / 60e6), Math.ceil(window.toUs / 60e6)] as const;
  const [watches, firings] = await Promise.all([reader().then(readWatches), firingsIn(...minutes)]);
  return {
    title: board.name,
    board,
    window,
    watches: watches.map(({ id, watch }) => ({
      id,
      name: watchName(watch),
      condition: watch.condition,
      firings: firings
        .filter(({ watchId }) => watchId === id)
        .map(({ onMinute, offMinute }) => ({ onMinute, offMinute }))
    }))
  };
};
