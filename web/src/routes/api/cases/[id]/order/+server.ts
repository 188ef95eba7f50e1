import * as v from 'valibot';
import { Entry } from '@tromix/core/case/case';
import { readJson, refused } from '$lib/server/http/json-body';
import { publish } from '$lib/server/live';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Puts the entries into another order. */
export const PUT: RequestHandler = async ({ params, request }) => {
  const body = await readJson(
    request,
    v.object({ ids: v.pipe(v.array(Entry.entries.id), v.maxLength(1000)) })
  );
  if (!body.ok) return refused(body.message);
  await change('orderEntries', params.id, body.value.ids);
  publish('cases');
  return new Response(null, { status: 204 });
};
