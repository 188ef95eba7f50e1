import { error } from '@sveltejs/kit';
import { evidenceOf, type EvidenceItem } from '$lib/server/queries/evidence';
import { requestsDuring } from '$lib/server/queries/recorded-requests';
import type { PageServerLoad } from './$types';

/** The two profiles held against each other, and how many requests each process served while it was recorded. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:evidence');
  const profiles = await evidenceOf('profile');
  const find = (name: string): EvidenceItem<'profile'> | null => {
    const id = url.searchParams.get(name);
    if (!id) return null;
    const found = profiles.find((profile) => profile.id === id);
    if (!found) error(404, 'One of the two profiles is not here. It may have been removed.');
    return found;
  };
  const [before, after] = [find('before'), find('after')];
  const count = async (item: EvidenceItem<'profile'> | null): Promise<number> =>
    item ? (await requestsDuring(item)).count : 0;
  return { profiles, before, after, requests: await Promise.all([count(before), count(after)]) };
};
