import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import {
  bearerOf,
  equal,
  hostAllowed,
  isIngest,
  isUpload,
  originAllowed,
  sessionOf,
  SESSION_COOKIE
} from '$lib/server/http/guard';
import { encodingOf, otlpFailed, RPC } from '$lib/server/http/otlp-answer';
import { loadDemo } from '$lib/server/demo';
import { keepPlans } from '$lib/server/record/plans';
import { closeLeftOver } from '$lib/server/record/recorder';
import { settings } from '$lib/server/settings';
import { WatchedFolder } from '$lib/server/store/watched-folder';
import { callWriter } from '$lib/server/workers';

export const init: ServerInit = async () => {
  await callWriter(() => Promise.resolve());
  if (settings().demoFolder) await loadDemo(settings().demoFolder);
  await closeLeftOver();
  keepPlans();
  if (settings().watchedFolder) new WatchedFolder(settings().watchedFolder).keepLooking();
};

const refuse = (status: number, message: string): Response =>
  new Response(message, { status, headers: { 'content-type': 'text/plain; charset=utf-8' } });

export const handle: Handle = async ({ event, resolve }) => {
  const { request, url, cookies } = event;
  const { token, ingestToken, hosts } = settings();
  if (!hostAllowed(request.headers.get('host'), hosts))
    return refuse(421, 'This server does not answer to that name. Add it to the setting TROMIX_HOSTS.');
  if (!originAllowed(request)) return refuse(403, 'A page of another origin may not change anything here.');
  if (isIngest(url.pathname)) {
    const wanted = ingestToken || token;
    if (wanted && !equal(bearerOf(request), wanted)) {
      return otlpFailed(
        encodingOf(request.headers.get('content-type')) ?? 'json',
        401,
        RPC.UNAUTHENTICATED,
        'The header Authorization: Bearer does not hold the ingest token.'
      );
    }
  } else if (token && url.pathname !== '/login' && !url.pathname.startsWith('/_app/')) {
    // Scripts that send files need no more than the ingest token.
    const sends = ingestToken !== '' && isUpload(request.method, url.pathname);
    const known =
      (sends && equal(bearerOf(request), ingestToken)) ||
      equal(cookies.get(SESSION_COOKIE) ?? '', sessionOf(token)) ||
      equal(bearerOf(request), token);
    if (!known) {
      const page = request.headers.get('accept')?.includes('text/html');
      if (!page) return refuse(401, 'Sign in first, or send the access token as Authorization: Bearer.');
      return new Response(null, {
        status: 303,
        headers: { location: `/login?to=${encodeURIComponent(url.pathname + url.search)}` }
      });
    }
  }
  const response = await resolve(event);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  response.headers.set('cross-origin-opener-policy', 'same-origin');
  return response;
};

export const handleError: HandleServerError = ({ error, status, message }) => {
  if (status === 404) return { message: 'There is nothing at this address.' };
  console.error(error);
  return {
    message:
      status >= 500 ? 'The server could not do this. Its log says why; nothing stored was lost.' : message
  };
};
