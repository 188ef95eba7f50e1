import { redirect } from '@sveltejs/kit';
import { pairOf } from '$lib/server/queries/pair';
import type { PageServerLoad } from './$types';

/** Two heap dumps to be chosen; the later one's view holds it against the earlier. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:evidence');
  const { items, pair } = await pairOf('heap', url.searchParams);
  if (pair.before && pair.after) {
    const query = new URLSearchParams(url.searchParams);
    query.delete('after');
    query.set('show', 'growth');
    redirect(307, `/heap/${pair.after.id}?${query}`);
  }
  return { dumps: items, ...pair };
};
