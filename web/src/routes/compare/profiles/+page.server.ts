import { pairOf } from '$lib/server/queries/pair';
import { requestsDuring } from '$lib/server/queries/recorded-requests';
import type { PageServerLoad } from './$types';

/** The two profiles held against each other, and how many requests each process served while it was recorded. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:evidence');
  const { items, pair } = await pairOf('profile', url.searchParams);
  const [before, after] = await Promise.all(
    [pair.before, pair.after].map(async (item) => (item ? (await requestsDuring(item)).count : 0))
  );
  return { profiles: items, ...pair, requests: { before, after } };
};
