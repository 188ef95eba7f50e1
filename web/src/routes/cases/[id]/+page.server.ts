import { error } from '@sveltejs/kit';
import { caseWithoutPictures, keptOf } from '$lib/server/queries/cases';
import type { PageServerLoad } from './$types';

/** Pictures are most of a case: each comes when it is scrolled to. */
export const load: PageServerLoad = async ({ params, depends }) => {
  depends('tromix:cases');
  const found = await caseWithoutPictures(params.id);
  if (!found) error(404, 'This case is not here. It may have been removed.');
  return { ...found, kept: await keptOf(found.one) };
};
