import type { Outcome } from '../ingest/outcome';
import { settings } from '../settings';
import { equal } from './guard';
import { Rate } from './rate';
import { BodyTooLarge, TooManyUnderWay, TooSlow, withBody } from './read-body';
import { noteTurnedAway } from './turned-away';

/** Browsers send no more than 64 KiB as a page is left (Beacon API, Fetch “keepalive”); before that a page may send more. */
const MAX_BYTES = 1024 * 1024;
const LOOPBACK_ORIGIN = /^https?:\/\/(?:127(?:\.\d{1,3}){3}|localhost|\[::1\])(?::\d{1,5})?$/;

let rate: Rate | undefined;

/** Why what a page sends is not taken: status and words; null where it is. */
function refusal(request: Request, url: URL): { status: number; words: string } | null {
  const { token, collect } = settings();
  const origin = request.headers.get('origin');
  if (origin !== null && !originTaken(origin))
    return {
      status: 403,
      words: `Page loads are not taken from ${origin.slice(0, 200)}. Add it to the setting TROMIX_COLLECT_ORIGINS.`
    };
  if (token !== '' && collect.key === '')
    return {
      status: 403,
      words: 'This server asks for a token, so page loads need a key: set TROMIX_COLLECT_KEY.'
    };
  if (collect.key !== '' && !equal(url.searchParams.get('key') ?? '', collect.key))
    return {
      status: 401,
      words: 'The key is not that of the setting TROMIX_COLLECT_KEY. Set it as data-key of the script.'
    };
  rate ??= new Rate(collect.perMinute, performance.now());
  if (!rate.take(performance.now()))
    return {
      status: 429,
      words:
        'More page loads are sent than are taken in a minute. The limit is the setting TROMIX_COLLECT_PER_MINUTE; a smaller data-share sends fewer.'
    };
  return null;
}

const originTaken = (origin: string): boolean =>
  LOOPBACK_ORIGIN.test(origin) || settings().collect.origins.includes(origin);

/** Takes what a page of an allowed origin sends. A page learns nothing but whether it was taken. */
export async function takeFromPage(
  request: Request,
  url: URL,
  take: (body: Uint8Array) => Promise<Outcome<unknown>>
): Promise<Response> {
  const refused = refusal(request, url);
  if (refused) return turnedAway(request, refused.status, refused.words);
  try {
    const outcome = await withBody(request, MAX_BYTES, take);
    if (outcome.ok) return answer(request, 204, null);
    const isBusy = outcome.code === 'busy' || outcome.code === 'disk-full';
    return turnedAway(request, isBusy ? 503 : 400, outcome.message);
  } catch (cause) {
    if (cause instanceof BodyTooLarge)
      return turnedAway(request, 413, `A page sent more than ${MAX_BYTES} bytes at once.`);
    if (cause instanceof TooManyUnderWay) return turnedAway(request, 503, cause.message);
    if (cause instanceof TooSlow) return turnedAway(request, 408, cause.message);
    console.error(`What a page sent could not be stored: ${(cause as Error).message}`);
    return turnedAway(request, 503, 'What a page sent could not be stored just now.');
  }
}

function turnedAway(request: Request, status: number, words: string): Response {
  noteTurnedAway(status, words);
  return answer(request, status, words);
}

/** Whether a page may send here at all, before it does (Fetch, “CORS-preflight request”). */
export const beforeSending = (request: Request): Response => answer(request, 204, null);

function answer(request: Request, status: number, words: string | null): Response {
  const headers = new Headers({ 'x-content-type-options': 'nosniff', vary: 'origin' });
  if (words !== null) headers.set('content-type', 'text/plain; charset=utf-8');
  const origin = request.headers.get('origin');
  if (origin !== null && originTaken(origin)) {
    headers.set('access-control-allow-origin', origin);
    headers.set('access-control-allow-methods', 'POST');
    headers.set('access-control-allow-headers', 'content-type');
    headers.set('access-control-max-age', '7200');
  }
  return new Response(words, { status, headers });
}
