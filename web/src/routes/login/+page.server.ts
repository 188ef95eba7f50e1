import { fail, redirect } from '@sveltejs/kit';
import { equal, sessionOf, SESSION_COOKIE } from '$lib/server/http/guard';
import { settings } from '$lib/server/settings';
import type { Actions } from './$types';

const WEEK_SECONDS = 7 * 24 * 3600;

export const actions: Actions = {
  default: async ({ request, cookies, url }) => {
    const token = String((await request.formData()).get('token') ?? '');
    const wanted = settings().token;
    if (!wanted || !equal(token, wanted))
      return fail(401, { message: 'That is not the access token of this server.' });
    cookies.set(SESSION_COOKIE, sessionOf(wanted), {
      path: '/',
      httpOnly: true,
      sameSite: 'strict',
      secure: url.protocol === 'https:',
      maxAge: WEEK_SECONDS
    });
    const to = url.searchParams.get('to') ?? '/';
    redirect(303, /^\/(?!\/)/.test(to) ? to : '/');
  }
};
