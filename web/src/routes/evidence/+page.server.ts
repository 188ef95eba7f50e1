import { allEvidence } from '$lib/server/queries/evidence';
import { oldBatches, setAsideList } from '$lib/server/queries/set-aside';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:evidence');
  const [evidence, setAside, old] = await Promise.all([allEvidence(), setAsideList(), oldBatches()]);
  return { evidence, setAside, old, keepDays: settings().retention.days };
};
