import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const Keep = v.object({ source: v.pipe(v.string(), v.regex(/^[0-9a-f]{32}$/)) });

/** Keeps traces that came when they were older than requests are kept. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Keep);
  if (!body.ok) return refused(body.message);
  await change('keepOldTraces', body.value.source);
  publish('evidence');
  return new Response(null, { status: 204 });
};
