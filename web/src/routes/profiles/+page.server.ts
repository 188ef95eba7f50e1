import { scopeFrom } from '$lib/scope';
import { evidenceOf } from '$lib/server/queries/evidence';
import { sumsInScope } from '$lib/server/queries/profile-sums';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:evidence', 'tromix:profiles');
  const [profiles, summed] = await Promise.all([
    evidenceOf('profile'),
    sumsInScope(scopeFrom(url.searchParams), Date.now())
  ]);
  return { profiles, summed };
};
