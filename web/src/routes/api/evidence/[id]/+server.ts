import { error } from '@sveltejs/kit';
import { caseOnFile } from '$lib/server/queries/cases';
import { evidenceItem } from '$lib/server/queries/evidence';
import { removeEvidence } from '$lib/server/evidence/remove-evidence';
import type { RequestHandler } from './$types';

/** Removes a piece of evidence. */
export const DELETE: RequestHandler = async ({ params }) => {
  const item = await evidenceItem(params.id);
  if (!item) error(404, 'There is no such evidence.');
  const standing = await caseOnFile(item.id);
  if (standing)
    error(
      409,
      `The case “${standing.question}” stands on it. Close the case, or take the pin out, before you remove it.`
    );
  await removeEvidence(item);
  return new Response(null, { status: 204 });
};
