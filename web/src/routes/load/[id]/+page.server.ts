import { error } from '@sveltejs/kit';
import { loadRunOf } from '$lib/server/queries/load-runs';
import { recordingsById } from '$lib/server/queries/recordings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('tromix:runs');
  const run = await loadRunOf(params.id);
  if (!run) error(404, 'There is no load run at this address. It may have been removed.');
  return { run, recordings: await recordingsById(run.recordings), title: `Load run ${run.id}` };
};
