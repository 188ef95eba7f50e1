import { pairOf } from '$lib/server/queries/pair';
import type { PageServerLoad } from './$types';

/** Two thread dumps held against each other. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:evidence');
  const { items, pair } = await pairOf('threads', url.searchParams);
  return { dumps: items, ...pair };
};
