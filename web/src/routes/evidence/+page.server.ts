import { allEvidence } from '$lib/server/queries/evidence';
import { rowsAsked } from '$lib/rows-asked';
import { oldBatches, setAsideList } from '$lib/server/queries/set-aside';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:evidence');
  const [evidence, setAside, old] = await Promise.all([
    allEvidence(rowsAsked(url.searchParams)),
    setAsideList(),
    oldBatches()
  ]);
  return { evidence, setAside, old, keepDays: settings().retention.days };
};
