import { error } from '@sveltejs/kit';
import { evidenceItem } from '$lib/server/queries/evidence';
import { requestsDuring } from '$lib/server/queries/recorded-requests';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params }) => {
  const profile = await evidenceItem(params.id);
  if (!profile || profile.kind !== 'profile')
    error(404, 'There is no such profile. It may have been removed.');
  return { profile, during: await requestsDuring(profile), hasSources: settings().sourceFolders.length > 0 };
};
