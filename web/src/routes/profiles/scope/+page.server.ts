import { scopeFrom } from '$lib/scope';
import { evidenceOf } from '$lib/server/queries/evidence';
import { sumsInScope, sumsWindow } from '$lib/server/queries/profile-sums';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:profiles');
  const scope = scopeFrom(url.searchParams);
  const now = Date.now();
  const [inScope, window, profiles] = await Promise.all([
    sumsInScope(scope, now),
    sumsWindow(scope, now),
    evidenceOf('profile')
  ]);
  return {
    inScope,
    window,
    profiles: profiles.filter(({ summary }) => summary?.unit === 'nanoseconds'),
    hasSources: settings().sourceFolders.length > 0
  };
};
