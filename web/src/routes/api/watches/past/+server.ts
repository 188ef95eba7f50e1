import { json } from '@sveltejs/kit';
import * as v from 'valibot';
import { Condition } from '@tromix/core/watch/condition';
import { readJson, refused } from '$lib/server/http/json-body';
import { pastRun } from '$lib/server/watch/past-run';
import type { RequestHandler } from './$types';

const MOST_DAYS = 7;
const Asked = v.object({
  condition: Condition,
  days: v.optional(v.pipe(v.number(), v.minValue(0.01), v.maxValue(MOST_DAYS)), MOST_DAYS)
});

/** What a watch would have said, before it is saved. */
export const POST: RequestHandler = async ({ request }) => {
  const body = await readJson(request, Asked);
  if (!body.ok) return refused(body.message);
  return json(await pastRun(body.value.condition, body.value.days, Date.now()));
};
