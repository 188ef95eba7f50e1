import { attributeNames } from '$lib/server/queries/attributes';
import { keepOf } from '$lib/server/queries/keep';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:keep');
  return { keep: await keepOf(), attributeNames: await attributeNames() };
};
