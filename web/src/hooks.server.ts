import { keepExpiring } from '$lib/server/evidence/expire';
import type { Handle, HandleServerError, RequestEvent, ServerInit } from '@sveltejs/kit';
import { fileOf, wordedOpening } from '$lib/server/db/client';
import { lockData } from '$lib/server/data-lock';
import { leftStory, loadDemo } from '$lib/server/demo';
import {
  bearerOf,
  equal,
  hostAllowed,
  isCollect,
  isIngest,
  isUpload,
  originAllowed,
  SESSION_COOKIE
} from '$lib/server/http/guard';
import { encodingOf, otlpFailed, RPC } from '$lib/server/http/otlp-answer';
import { strayExport } from '$lib/server/http/stray-export';
import { sessionOf } from '$lib/server/http/sessions';
import { tries, waitWords } from '$lib/server/http/tries';
import { keepLeftOverRuns } from '$lib/server/load/runs';
import { keepCondensing } from '$lib/server/profiles/condensing';
import { keepPlans } from '$lib/server/record/plans';
import { closeLeftOver } from '$lib/server/record/recorder';
import { settings } from '$lib/server/settings';
import { cleanLeftOver } from '$lib/server/evidence/clean';
import { WatchedFolder } from '$lib/server/evidence/watched-folder';
import { keepDelivering } from '$lib/server/watch/deliver';
import { keepForgetting } from '$lib/server/watch/forget';
import { keepDoingTasks } from '$lib/server/watch/tasks';
import { missingFolders } from '$lib/server/missing-folders';
import { callWriter, keepWriting } from '$lib/server/workers';

export const init: ServerInit = async () => {
  const { dataFolder, databaseUrl, demoFolder, sourceFolders, watchedFolder } = settings();
  await lockData(dataFolder, databaseUrl, process.env.PORT ?? '4380');
  // What a worker thread says of the database comes as a plain error with its words.
  await callWriter(() => Promise.resolve()).catch((cause: unknown) => {
    throw wordedOpening(fileOf(databaseUrl) || databaseUrl, cause as Error);
  });
  keepWriting();
  keepExpiring();
  const { unlisted } = await cleanLeftOver(dataFolder);
  if (unlisted > 0)
    console.error(
      `${unlisted} files of evidence are in ${dataFolder}, but the database lists none. They are kept: check that TROMIX_DB names the right database.`
    );
  const missing = await missingFolders(
    sourceFolders.map((folder) => ({
      setting: 'TROMIX_SOURCES',
      folder,
      without: 'lines of its files are not shown'
    }))
  );
  for (const line of missing) console.error(line);
  if (demoFolder) await loadDemo(demoFolder);
  await closeLeftOver();
  await keepLeftOverRuns();
  keepPlans();
  keepCondensing();
  keepDelivering();
  keepForgetting();
  await keepDoingTasks();
  if (watchedFolder) new WatchedFolder(watchedFolder).keepLooking();
};

const refuse = (status: number, message: string, headers: Record<string, string> = {}): Response =>
  new Response(message, {
    status,
    headers: { 'content-type': 'text/plain; charset=utf-8', connection: 'close', ...headers }
  });

/** Only this place answers who is not signed in; it shows nothing but the field for the token. */
const SIGN_IN = '/login';

export const handle: Handle = async ({ event, resolve }) => {
  const { request, url } = event;
  if (!hostAllowed(request.headers.get('host'), settings().hosts))
    return refuse(421, 'This server does not answer to that name. Add it to the setting TROMIX_HOSTS.');
  // Pages of other origins send there: it answers them alone, and shows them nothing.
  if (isCollect(url.pathname)) return resolve(event);
  if (!originAllowed(request)) return refuse(403, 'A page of another origin may not change anything here.');
  const refused =
    strayExport(request, url.pathname, url.origin) ??
    (isIngest(url.pathname) ? refuseIngest(event) : await refuseVisitor(event));
  const response = refused ?? toStory(event) ?? (await resolve(event));
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  response.headers.set('cross-origin-opener-policy', 'same-origin');
  return response;
};

/** Whoever opens the demo long after its start is shown the time of its story; null for all others. */
function toStory({ url, isDataRequest }: RequestEvent): Response | null {
  const story = url.pathname === '/' && url.search === '' && !isDataRequest ? leftStory(Date.now()) : null;
  if (!story) return null;
  const location = `/?from=${story.from}&to=${story.to}`;
  return new Response(null, { status: 302, headers: { location } });
}

/** Why a batch is not taken; null where it is. */
function refuseIngest({ request, getClientAddress }: RequestEvent): Response | null {
  const { token, ingestToken } = settings();
  const wanted = ingestToken || token;
  if (!wanted) return null;
  const encoding = encodingOf(request.headers.get('content-type')) ?? 'json';
  const pauseMs = tries.pauseMs(getClientAddress(), performance.now());
  if (pauseMs > 0) return otlpFailed(encoding, 429, RPC.RESOURCE_EXHAUSTED, waitWords(pauseMs));
  const bearer = bearerOf(request);
  if (equal(bearer, wanted)) return null;
  if (bearer) tries.wrong(getClientAddress(), bearer, performance.now());
  return otlpFailed(
    encoding,
    401,
    RPC.UNAUTHENTICATED,
    'The header Authorization: Bearer does not hold the ingest token.'
  );
}

/** Why a page or a question is not answered; null where it is. What it may see stands in `locals`. */
async function refuseVisitor(event: RequestEvent): Promise<Response | null> {
  const { request, url, cookies, locals } = event;
  const { token, ingestToken } = settings();
  locals.signedIn = false;
  locals.session = '';
  const bearer = bearerOf(request);
  const pauseMs = bearer ? tries.pauseMs(event.getClientAddress(), performance.now()) : 0;
  if (pauseMs > 0)
    return refuse(429, waitWords(pauseMs), { 'retry-after': String(Math.ceil(pauseMs / 1000)) });
  const session = token ? await sessionOf(cookies.get(SESSION_COOKIE) ?? '') : null;
  if (session !== null || token === '' || equal(bearer, token)) {
    locals.signedIn = true;
    locals.session = session?.id ?? '';
  }
  // Scripts that send files need no more than the ingest token; without an access token they need that.
  if (isUpload(request.method, url.pathname) && ingestToken) {
    if (equal(bearer, ingestToken) || (token && locals.signedIn)) return null;
    if (bearer) tries.wrong(event.getClientAddress(), bearer, performance.now());
    return refuse(401, 'Sending evidence needs the ingest token, as Authorization: Bearer.');
  }
  if (locals.signedIn || event.route.id === SIGN_IN) return null;
  if (bearer) tries.wrong(event.getClientAddress(), bearer, performance.now());
  const page = request.headers.get('accept')?.includes('text/html') && !event.isDataRequest;
  if (!page) return refuse(401, 'Sign in first, or send the access token as Authorization: Bearer.');
  return new Response(null, {
    status: 303,
    headers: { location: `${SIGN_IN}?to=${encodeURIComponent(url.pathname + url.search)}` }
  });
}

export const handleError: HandleServerError = ({ error, status, message }) => {
  if (status === 404) return { message: 'There is nothing at this address.' };
  console.error(error);
  if (/^Answering this ended/.test(String((error as Error | null)?.message)))
    return { message: (error as Error).message };
  if (/SQLITE_CORRUPT|malformed/.test(String((error as Error | null)?.message)))
    return {
      message:
        'The database is damaged: this could not be read. Stop the server and run “npm run rescue”, which keeps a copy and saves what can be read.'
    };
  return {
    message:
      status >= 500 ? 'The server could not do this. Its log says why; nothing stored was lost.' : message
  };
};
