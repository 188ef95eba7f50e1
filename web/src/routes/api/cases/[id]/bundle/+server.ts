import { Readable } from 'node:stream';
import { error } from '@sveltejs/kit';
import { bundleOf } from '$lib/server/cases/bundle-out';
import { caseOf } from '$lib/server/queries/cases';
import type { RequestHandler } from './$types';

/** A case with all it stands on, as a zip. */
export const GET: RequestHandler = async ({ params }) => {
  const one = await caseOf(params.id);
  if (!one) error(404, 'This case is not here. It may have been removed.');
  return new Response(Readable.toWeb(await bundleOf(one, Date.now())) as ReadableStream, {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="case-${one.id}.tromix.zip"`
    }
  });
};
