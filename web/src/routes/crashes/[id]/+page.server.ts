import { error } from '@sveltejs/kit';
import { crashOf } from '$lib/server/queries/crash';
import { settings } from '$lib/server/settings';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('tromix:evidence');
  const detail = await crashOf(params.id, Date.now());
  if (!detail) error(404, 'There is no such crash. It may have been removed.');
  return { detail, hasSources: settings().sourceFolders.length > 0 };
};
