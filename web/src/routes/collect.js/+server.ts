import { createHash } from 'node:crypto';
import { gzipSync } from 'node:zlib';
import script from '../../../../collect/src/main.ts?browserscript';
import type { RequestHandler } from './$types';

const BODY = gzipSync(script, { level: 9 });
const ETAG = `"${createHash('sha256').update(BODY).digest('hex').slice(0, 16)}"`;
const HEADERS = {
  'content-type': 'text/javascript; charset=utf-8',
  'cache-control': 'public, max-age=3600',
  etag: ETAG,
  // Pages of other origins load it, also those that are isolated from others.
  'access-control-allow-origin': '*',
  'cross-origin-resource-policy': 'cross-origin',
  vary: 'accept-encoding'
};

/** The script that pages tell their loads by. Every browser that runs it takes gzip. */
export const GET: RequestHandler = ({ request }) =>
  request.headers.get('if-none-match') === ETAG
    ? new Response(null, { status: 304, headers: HEADERS })
    : new Response(BODY, { headers: { ...HEADERS, 'content-encoding': 'gzip' } });
