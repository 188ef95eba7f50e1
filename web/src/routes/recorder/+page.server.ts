import { planList, recordingList } from '$lib/server/queries/recordings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:recordings');
  const [recordings, plans] = await Promise.all([recordingList(), planList()]);
  return { recordings, plans };
};
