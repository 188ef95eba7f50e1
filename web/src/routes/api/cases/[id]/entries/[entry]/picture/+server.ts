import { error } from '@sveltejs/kit';
import { pictureOf } from '$lib/server/queries/cases';
import type { RequestHandler } from './$types';

/** The picture of a pin. It is shown as an image, and runs nothing where it is opened by itself. */
export const GET: RequestHandler = async ({ params }) => {
  const picture = await pictureOf(params.id, params.entry);
  if (!picture) error(404, 'This entry has no picture.');
  return new Response(picture, {
    headers: {
      'content-type': 'image/svg+xml; charset=utf-8',
      'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; sandbox",
      // A pin is never changed.
      'cache-control': 'private, max-age=86400, immutable'
    }
  });
};
