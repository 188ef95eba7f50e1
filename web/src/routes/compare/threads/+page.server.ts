import { error } from '@sveltejs/kit';
import type { Side } from '@tromix/core/sides';
import { evidenceOf, type EvidenceItem } from '$lib/server/queries/evidence';
import type { PageServerLoad } from './$types';

/** Two thread dumps held against each other. */
export const load: PageServerLoad = async ({ url, depends }) => {
  depends('tromix:evidence');
  const dumps = await evidenceOf('threads');
  const find = (name: Side): EvidenceItem<'threads'> => {
    const found = dumps.find(({ id }) => id === url.searchParams.get(name));
    if (!found) error(404, 'One of the two thread dumps is not here. It may have been removed.');
    return found;
  };
  return { before: find('before'), after: find('after') };
};
