import { casesOf } from '$lib/server/queries/cases';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:cases');
  return { all: await casesOf() };
};
