import { error } from '@sveltejs/kit';
import { evidenceItem } from '$lib/server/queries/evidence';
import { removeEvidence } from '$lib/server/evidence/remove-evidence';
import type { RequestHandler } from './$types';

/** Removes a piece of evidence. */
export const DELETE: RequestHandler = async ({ params }) => {
  const item = await evidenceItem(params.id);
  if (!item) error(404, 'There is no such evidence.');
  await removeEvidence(item);
  return new Response(null, { status: 204 });
};
