import { Readable } from 'node:stream';
import { scopeFrom } from '$lib/scope';
import { profileSums } from '$lib/server/queries/profile-sums';
import type { RequestHandler } from './$types';

/** What the recordings of a scope come to, for a page that adds them up. */
export const GET: RequestHandler = ({ url }) => {
  const sums = profileSums(
    scopeFrom(url.searchParams),
    url.searchParams.get('measure') ?? '',
    Date.now(),
    url.searchParams.get('shares') === '1'
  );
  return new Response(Readable.toWeb(Readable.from(sums)) as ReadableStream, {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' }
  });
};
