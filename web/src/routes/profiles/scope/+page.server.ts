import { scopeFrom } from '$lib/scope';
import { evidenceOf } from '$lib/server/queries/evidence';
import { sumsInScope, sumsWindow } from '$lib/server/queries/profile-sums';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:profiles');
  const scope = scopeFrom(url.searchParams);
  const now = Date.now();
  return {
    inScope: await sumsInScope(scope, now),
    window: await sumsWindow(scope, now),
    profiles: (await evidenceOf('profile')).filter(({ summary }) => summary?.unit === 'nanoseconds'),
    hasSources: settings().sourceFolders.length > 0
  };
};
