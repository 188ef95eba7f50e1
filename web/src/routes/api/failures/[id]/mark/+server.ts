import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { identitiesOf } from '$lib/server/queries/failures';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const Mark = v.object({
  kind: v.picklist(['fixed', 'ignored']),
  /** The release that fixes it; '' for the next one. */
  release: v.optional(v.pipe(v.string(), v.maxLength(200)), ''),
  moreTimes: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1e9)), 0)
});

/** Number of a group that is here; null for none. */
async function groupOf(id: string): Promise<number | null> {
  const number = /^\d{1,15}$/.test(id) ? Number(id) : 0;
  return (await identitiesOf([number])).has(number) ? number : null;
}
const notHere = (): Response => refused('This group of failures is not here.', 404);

/** Marks a group of failures as fixed, or as one to be ignored. */
export const POST: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Mark);
  if (!body.ok) return refused(body.message);
  const id = await groupOf(params.id);
  if (id === null) return notHere();
  await change('markFailure', id, body.value.kind, body.value.release, body.value.moreTimes);
  publish('booked');
  return new Response(null, { status: 204 });
};

/** Takes the mark away: it is open again. */
export const DELETE: RequestHandler = async ({ params }) => {
  const id = await groupOf(params.id);
  if (id === null) return notHere();
  await change('unmarkFailure', id);
  publish('booked');
  return new Response(null, { status: 204 });
};
