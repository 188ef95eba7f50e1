import { error } from '@sveltejs/kit';
import { evidenceSeries, itemOfKind } from '$lib/server/queries/evidence';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('tromix:evidence');
  const item = await itemOfKind(params.id, 'threads');
  if (!item) error(404, 'There is no such thread dump. It may have been removed.');
  return { item, series: await evidenceSeries(item) };
};
