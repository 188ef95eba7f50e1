import { randomUUID } from 'node:crypto';
import { json } from '@sveltejs/kit';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { allowedPlace } from '$lib/server/record/addresses';
import { Plan } from '$lib/server/record/plan-schema';
import { settings } from '$lib/server/settings';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Adds a plan: a recording that is made again and again, or each time an endpoint is slow. */
export const POST: RequestHandler = async ({ request }) => {
  const plan = await readJson(request, Plan);
  if (!plan.ok) return refused(plan.message);
  const place = allowedPlace(plan.value.address, settings().inspectPlaces);
  if ('refused' in place) return refused(place.refused, 403);
  const { when, kind, calls, seconds } = plan.value;
  if (when.by === 'always' && (kind !== 'cpu' || calls !== 'no'))
    return refused('Only CPU samples are recorded all the time: what else there is costs too much.');
  if (when.by !== 'watch' && seconds > when.everyMinutes * 60)
    return refused(
      'A recording must be over before the next one begins: choose a longer pause or a shorter recording.'
    );
  const id = randomUUID();
  await change('addPlan', id, plan.value);
  publish('recordings');
  return json({ id }, { status: 201 });
};
