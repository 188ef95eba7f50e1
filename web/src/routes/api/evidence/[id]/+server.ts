import { error } from '@sveltejs/kit';
import { dropIndexes } from '$lib/server/heap/indexes';
import { publish } from '$lib/server/live';
import { evidenceItem } from '$lib/server/queries/evidence';
import { settings } from '$lib/server/settings';
import { EvidenceStore } from '$lib/server/store/evidence-store';
import { callWriter } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Removes a piece of evidence: first from the list, then its file. */
export const DELETE: RequestHandler = async ({ params }) => {
  const item = await evidenceItem(params.id);
  if (!item) error(404, 'There is no such evidence.');
  await callWriter((writer) => writer.removeEvidence(item.id));
  await new EvidenceStore(settings().dataFolder).remove(item.id);
  if (item.kind === 'heap') await dropIndexes(item.id);
  publish('evidence');
  return new Response(null, { status: 204 });
};
