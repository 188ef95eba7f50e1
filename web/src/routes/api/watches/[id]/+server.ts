import * as v from 'valibot';
import { json } from '@sveltejs/kit';
import { Watch } from '@tromix/core/watch/watch';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { watchOf } from '$lib/server/watch/queries';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const GONE = 'This watch is not here. It may have been removed.';
const Changed = v.object({ version: v.pipe(v.number(), v.integer()), watch: Watch });

/** Changes a watch; with another condition it begins anew. */
export const PUT: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Changed);
  if (!body.ok) return refused(body.message);
  const stored = await watchOf(params.id);
  if (!stored) return refused(GONE, 404);
  const { version, watch } = body.value;
  if (stored.version !== version)
    return refused('Somebody changed this watch meanwhile. Reload to see what it is now.', 409);
  const isAnew = JSON.stringify(stored.watch.condition) !== JSON.stringify(watch.condition);
  await change('changeWatch', params.id, version, watch, isAnew);
  publish('watches');
  return json({ version: version + 1 });
};

/** Longer than a month is not a pause: remove it, or change its limit. */
const MOST_SILENT_MINUTES = 43_200;
const Silence = v.object({
  /** For how long nobody is told; 0 to tell again. */
  minutes: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(0),
    v.maxValue(MOST_SILENT_MINUTES, 'expected at most 30 days')
  )
});

/** Silences a watch for a while: it is judged, and nobody is told. */
export const PATCH: RequestHandler = async ({ params, request }) => {
  const body = await readJson(request, Silence);
  if (!body.ok) return refused(body.message);
  if (!(await watchOf(params.id))) return refused(GONE, 404);
  const { minutes } = body.value;
  await change('silenceWatch', params.id, minutes === 0 ? 0 : (Date.now() + minutes * 60_000) * 1000);
  publish('watches');
  return new Response(null, { status: 204 });
};

export const DELETE: RequestHandler = async ({ params }) => {
  await change('removeWatch', params.id);
  publish('watches');
  publish('recordings');
  return new Response(null, { status: 204 });
};
