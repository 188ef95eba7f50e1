import { error } from '@sveltejs/kit';
import { caseOf, keptOf } from '$lib/server/queries/cases';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('tromix:cases');
  const one = await caseOf(params.id);
  if (!one) error(404, 'This case is not here. It may have been removed.');
  return { one, kept: await keptOf(one) };
};
