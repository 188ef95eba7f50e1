import { fail, redirect } from '@sveltejs/kit';
import { equal, ownPlace, SESSION_COOKIE } from '$lib/server/http/guard';
import { BodyTooLarge, withBody } from '$lib/server/http/read-body';
import { beginSession, SESSION_MS } from '$lib/server/http/sessions';
import { tries, waitWords } from '$lib/server/http/tries';
import { settings } from '$lib/server/settings';
import type { Actions } from './$types';

/** A token is short. */
const MAX_BYTES = 8 * 1024;

/** The form that was sent. It is read here, with a limit: whoever asks is not known yet. */
const formOf = (request: Request): Promise<FormData> =>
  withBody(request, MAX_BYTES, (body) =>
    new Response(new Uint8Array(body), {
      headers: { 'content-type': request.headers.get('content-type') ?? '' }
    }).formData()
  );

export const actions: Actions = {
  default: async ({ request, cookies, url, getClientAddress }) => {
    const address = getClientAddress();
    const pauseMs = tries.pauseMs(address, performance.now());
    if (pauseMs > 0) return fail(429, { message: waitWords(pauseMs) });
    let form: FormData;
    try {
      form = await formOf(request);
    } catch (cause) {
      return cause instanceof BodyTooLarge
        ? fail(413, { message: `A token is shorter than ${MAX_BYTES} bytes.` })
        : fail(400, { message: 'Expected a form with the token.' });
    }
    const wanted = settings().token;
    const given = form.get('token');
    if (!wanted || typeof given !== 'string' || !equal(given, wanted)) {
      tries.wrong(address, typeof given === 'string' ? given : '', performance.now());
      return fail(401, { message: 'That is not the access token of this server.' });
    }
    tries.right(address);
    const cookie = await beginSession(address, request.headers.get('user-agent') ?? '');
    cookies.set(SESSION_COOKIE, cookie, {
      path: '/',
      httpOnly: true,
      sameSite: 'strict',
      // On plain http a browser would not send it back; the page says what that means.
      secure: url.protocol === 'https:',
      maxAge: SESSION_MS / 1000
    });
    redirect(303, ownPlace(url.searchParams.get('to')));
  }
};
