import { json } from '@sveltejs/kit';
import { refused } from '$lib/server/http/json-body';
import { allowedPlace } from '$lib/server/record/addresses';
import { recordableProcesses } from '$lib/server/record/processes';
import { settings } from '$lib/server/settings';
import type { RequestHandler } from './$types';

/** Processes that can be recorded: those found where the setting says, or the one at an address given. */
export const GET: RequestHandler = async ({ url }) => {
  const { inspectPlaces } = settings();
  const given = url.searchParams.get('address');
  const place = given ? allowedPlace(given, inspectPlaces) : null;
  if (place && 'refused' in place) return refused(place.refused, 403);
  return json(await recordableProcesses(place ? [place] : inspectPlaces));
};
