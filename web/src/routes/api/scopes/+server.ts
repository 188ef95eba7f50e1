import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const Saved = v.object({
  name: v.pipe(v.string(), v.trim(), v.nonEmpty('Give the scope a name.'), v.maxLength(80)),
  query: v.pipe(v.string(), v.maxLength(4000))
});

/** Saves a scope under a name. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Saved);
  if (!body.ok) return refused(body.message);
  await change('saveScope', body.value.name, body.value.query);
  return new Response(null, { status: 204 });
};

export const DELETE: RequestHandler = async ({ request }) => {
  const body = await readJson(request, v.object({ id: v.pipe(v.number(), v.integer()) }));
  if (!body.ok) return refused(body.message);
  await change('removeScope', body.value.id);
  return new Response(null, { status: 204 });
};
