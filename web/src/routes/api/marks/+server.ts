import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const name = v.pipe(v.string(), v.maxLength(20_000));
const What = { service: name, endpoint: name, rule: v.pipe(name, v.nonEmpty()), subject: name };
const Aside = v.object({
  ...What,
  reason: v.pipe(v.string(), v.trim(), v.nonEmpty('Say in a few words why.'), v.maxLength(500)),
  costNs: v.pipe(v.number(), v.minValue(0))
});

/** Sets a finding aside, with the reason. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Aside);
  if (!body.ok) return refused(body.message);
  const { reason, costNs, ...finding } = body.value;
  await change('setFindingAside', finding, reason, costNs);
  publish('booked');
  return new Response(null, { status: 204 });
};

/** Takes a finding up again. */
export const DELETE: RequestHandler = async ({ request }) => {
  const body = await readJson(request, v.object(What));
  if (!body.ok) return refused(body.message);
  await change('takeFindingUp', body.value);
  publish('booked');
  return new Response(null, { status: 204 });
};
