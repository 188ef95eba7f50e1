import { json } from '@sveltejs/kit';
import { openBundle } from '$lib/server/cases/bundle-in';
import { progressing, TooSlow } from '$lib/server/http/read-body';
import { refused } from '$lib/server/http/json-body';
import { settings } from '$lib/server/settings';
import type { RequestHandler } from './$types';

/** Opens a bundle from another installation. */
export const POST: RequestHandler = async ({ request }) => {
  if (!request.body) return refused('The file is empty.');
  try {
    const opened = await openBundle(
      progressing(request.body as unknown as AsyncIterable<Uint8Array>),
      settings().maxUploadBytes
    );
    return opened.ok ? json(opened, { status: 201 }) : refused(opened.message);
  } catch (cause) {
    if (!(cause instanceof TooSlow)) throw cause;
    return refused(cause.message, 408);
  }
};
