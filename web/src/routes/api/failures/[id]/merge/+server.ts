import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { loadMerges } from '$lib/server/queries/failure-merges';
import { identitiesOf } from '$lib/server/queries/failures';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const Other = v.object({ group: v.pipe(v.number(), v.integer(), v.minValue(1)) });
const notHere = (): Response => refused('One of these groups of failures is not here.', 404);

/** The number in an address and the one in the body, where there are such groups. */
async function pairOf(id: string, request: Request): Promise<{ id: number; group: number } | Response> {
  const body = await readJson(request, Other);
  if (!body.ok) return refused(body.message);
  const { group } = body.value;
  const own = /^\d{1,15}$/.test(id) ? Number(id) : 0;
  const known = await identitiesOf([own, group]);
  return known.has(own) && known.has(group) ? { id: own, group } : notHere();
}

/** Merges another group, with those that were merged into it, into this one. */
export const POST: RequestHandler = async ({ params, request }) => {
  const pair = await pairOf(params.id, request);
  if (pair instanceof Response) return pair;
  const merges = await loadMerges();
  const [into, group] = [merges.of(pair.id), merges.of(pair.group)];
  if (into === group) return refused('They are one already.', 409);
  await change('mergeFailure', group, into);
  publish('booked');
  return new Response(null, { status: 204 });
};

/** Parts a group from the one it was merged into. */
export const DELETE: RequestHandler = async ({ params, request }) => {
  const pair = await pairOf(params.id, request);
  if (pair instanceof Response) return pair;
  await change('partFailure', pair.group);
  publish('booked');
  return new Response(null, { status: 204 });
};
