import { json } from '@sveltejs/kit';
import { resourceOfPid } from '$lib/server/queries/recordings';
import { addressOf, allowedPlace } from '$lib/server/record/addresses';
import { refused } from '$lib/server/http/json-body';
import { settings } from '$lib/server/settings';
import { callRecorder } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Processes that can be recorded: those found where the setting says, or the one at an address given. */
export const GET: RequestHandler = async ({ url }) => {
  const { inspectPlaces } = settings();
  const given = url.searchParams.get('address');
  const place = given ? allowedPlace(given, inspectPlaces) : null;
  if (place && 'refused' in place) return refused(place.refused, 403);
  const found = await callRecorder((recorder) => recorder.targets(place ? [place] : inspectPlaces));
  const targets = await Promise.all(
    found.map(async ({ place: at, ...facts }) => {
      const known = await resourceOfPid(facts.pid);
      return {
        address: addressOf(at),
        ...facts,
        service: facts.service || known?.service || '',
        host: known?.host ?? facts.host,
        release: facts.release || known?.release || ''
      };
    })
  );
  return json(targets);
};
