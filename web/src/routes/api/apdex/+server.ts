import * as v from 'valibot';
import { change } from '$lib/server/workers';
import { publish } from '$lib/server/live';
import { readJson, refused } from '$lib/server/http/json-body';
import type { RequestHandler } from './$types';

const Body = v.object({
  endpoint: v.pipe(v.number(), v.integer(), v.minValue(1)),
  tMs: v.pipe(
    v.number(),
    v.integer('T must be an integer number of milliseconds.'),
    v.minValue(1),
    v.maxValue(600_000)
  )
});

/** Sets T of one endpoint. Zones are computed from sketches, so that the past shows by the new T too. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Body);
  if (!body.ok) return refused(body.message);
  const { endpoint, tMs } = body.value;
  await change('setApdexT', endpoint, tMs);
  publish('booked');
  return new Response(null, { status: 204 });
};
