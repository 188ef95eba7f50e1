import { evidenceOf } from '$lib/server/queries/evidence';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('tromix:evidence');
  return { items: await evidenceOf('crash') };
};
