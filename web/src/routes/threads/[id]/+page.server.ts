import { error } from '@sveltejs/kit';
import { evidenceSeries, itemOfKind } from '$lib/server/queries/evidence';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('tromix:evidence');
  const item = (await itemOfKind(params.id, 'threads')) ?? (await itemOfKind(params.id, 'crash'));
  if (!item) error(404, 'There is no such thread dump. It may have been removed.');
  return { item, series: await evidenceSeries<'threads' | 'crash'>(item) };
};
