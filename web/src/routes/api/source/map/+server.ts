import { settings } from '$lib/server/settings';
import { sourceMapOf } from '$lib/server/sources/source-text';
import type { RequestHandler } from './$types';

/** The source map of a built file in one of the allowed source folders; no content where it has none. */
export const GET: RequestHandler = async ({ url }) => {
  const map = await sourceMapOf(settings().sourceFolders, url.searchParams.get('file') ?? '');
  return map === null
    ? new Response(null, { status: 204 })
    : new Response(map, { headers: { 'content-type': 'application/json' } });
};
