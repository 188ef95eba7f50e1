import { Readable } from 'node:stream';
import { error } from '@sveltejs/kit';
import { evidenceItem } from '$lib/server/queries/evidence';
import { settings } from '$lib/server/settings';
import { EvidenceStore } from '$lib/server/evidence/evidence-store';
import type { RequestHandler } from './$types';

/** The file as it came. It never changes: its name is its content. */
export const GET: RequestHandler = async ({ params }) => {
  const item = await evidenceItem(params.id);
  if (!item) error(404, 'There is no such evidence.');
  const store = new EvidenceStore(settings().dataFolder);
  if (!(await store.has(item.id)))
    error(
      410,
      'The file of this evidence is missing from the data folder. Remove it from the list, or send the file again.'
    );
  const { bytes, stream } = await store.read(item.id);
  return new Response(Readable.toWeb(stream as Readable) as ReadableStream, {
    headers: {
      'content-type': 'application/octet-stream',
      'content-length': String(bytes),
      'content-disposition': 'attachment',
      'cache-control': 'private, max-age=31536000, immutable'
    }
  });
};
