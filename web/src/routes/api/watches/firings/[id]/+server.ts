import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const Seen = v.object({
  /** Who looked; '' for somebody who does not say. */
  by: v.pipe(v.string(), v.trim(), v.maxLength(100))
});

/** Notes that somebody looked. */
export const PUT: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Seen);
  if (!body.ok) return refused(body.message);
  await change('seeFiring', params.id, body.value.by);
  publish('watches');
  return new Response(null, { status: 204 });
};
