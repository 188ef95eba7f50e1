import * as v from 'valibot';
import { SESSION_COOKIE } from '$lib/server/http/guard';
import { readJson, refused } from '$lib/server/http/json-body';
import { endSession, endSessions } from '$lib/server/http/sessions';
import type { RequestHandler } from './$types';

const End = v.variant('which', [
  v.object({ which: v.literal('mine') }),
  v.object({ which: v.literal('others') }),
  v.object({ which: v.literal('all') }),
  v.object({ which: v.literal('one'), id: v.pipe(v.string(), v.regex(/^[0-9a-f]{64}$/)) })
]);

/** Ends sessions: this browser's, all others, all, or one. */
export const DELETE: RequestHandler = async ({ request, locals, cookies }) => {
  const body = await readJson(request, End);
  if (!body.ok) return refused(body.message);
  const end = body.value;
  if (end.which === 'one') await endSession(end.id);
  else if (end.which === 'mine') await endSession(locals.session);
  else await endSessions(end.which === 'others' ? locals.session : '');
  if (end.which === 'mine' || end.which === 'all') cookies.delete(SESSION_COOKIE, { path: '/' });
  return new Response(null, { status: 204 });
};
