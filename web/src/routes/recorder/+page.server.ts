import { watchName } from '@tromix/core/watch/watch';
import { reader } from '$lib/server/db/reader';
import { readWatches } from '$lib/server/watch/stored';
import { planList, recordingList } from '$lib/server/queries/recordings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:recordings');
  depends('tromix:watches');
  const [recordings, plans, watches] = await Promise.all([
    recordingList(),
    planList(),
    reader().then(readWatches)
  ]);
  return {
    recordings,
    plans,
    /** Names of the watches that a plan may go by, by their ids. */
    watches: Object.fromEntries(watches.map(({ id, watch }) => [id, watchName(watch)]))
  };
};
