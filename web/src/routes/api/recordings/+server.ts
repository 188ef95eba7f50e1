import { json } from '@sveltejs/kit';
import { readJson, refused } from '$lib/server/http/json-body';
import { allowedPlace } from '$lib/server/record/addresses';
import { NewRecording } from '$lib/server/record/plan-schema';
import { startRecording } from '$lib/server/record/recorder';
import { settings } from '$lib/server/settings';
import type { RequestHandler } from './$types';

/** Starts a recording; it ends by itself. */
export const POST: RequestHandler = async ({ request }) => {
  const order = await readJson(request, NewRecording);
  if (!order.ok) return refused(order.message);
  const place = allowedPlace(order.value.address, settings().inspectPlaces);
  if ('refused' in place) return refused(place.refused, 403);
  const started = await startRecording(place, order.value, '', order.value.sure);
  if (started.ok) return json({ id: started.id }, { status: 201 });
  const { message, status, ask } = started;
  return ask ? json({ message, ask }, { status }) : refused(message, status);
};
