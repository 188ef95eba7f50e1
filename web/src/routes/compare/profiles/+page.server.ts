import { error } from '@sveltejs/kit';
import type { Side } from '@tromix/core/sides';
import { evidenceOf, type EvidenceItem } from '$lib/server/queries/evidence';
import { requestsDuring } from '$lib/server/queries/recorded-requests';
import type { PageServerLoad } from './$types';

/** The two profiles held against each other, and how many requests each process served while it was recorded. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:evidence');
  const profiles = await evidenceOf('profile');
  const find = (name: Side): EvidenceItem<'profile'> | null => {
    const id = url.searchParams.get(name);
    if (!id) return null;
    const found = profiles.find((profile) => profile.id === id);
    if (!found) error(404, 'One of the two profiles is not here. It may have been removed.');
    return found;
  };
  const sides = { before: find('before'), after: find('after') };
  const count = async (item: EvidenceItem<'profile'> | null): Promise<number> =>
    item ? (await requestsDuring(item)).count : 0;
  const [before, after] = await Promise.all([count(sides.before), count(sides.after)]);
  return { profiles, ...sides, requests: { before, after } };
};
