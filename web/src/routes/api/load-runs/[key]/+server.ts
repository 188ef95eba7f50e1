import { json } from '@sveltejs/kit';
import { SAMPLE_ORDERS } from '@tromix/core/load/sample-rows';
import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { pictureOfRun, stopRun } from '$lib/server/load/runs';
import { requestsOfTraces } from '$lib/server/queries/load-runs';
import type { RunAnswer } from '$lib/ui/load/run-client';
import type { RequestHandler } from './$types';

/** What a run comes to, so far or in the end. */
export const GET: RequestHandler = async ({ params, url }) => {
  const order = SAMPLE_ORDERS.find((one) => one === url.searchParams.get('order')) ?? 'slowest';
  const picture = await pictureOfRun(params.key, order);
  if (!picture) return refused('There is no such load run, or its file is gone.', 404);
  const paths = await requestsOfTraces(picture.rows.map(({ traceId }) => traceId));
  return json({ ...picture, paths } satisfies RunAnswer);
};

/** Ends a run before its time; what it has measured is kept. */
export const POST: RequestHandler = async ({ params, request }) => {
  const order = await readJson(request, v.object({ how: v.picklist(['stop'], 'takes stop') }));
  if (!order.ok) return refused(order.message);
  return stopRun(params.key) ? json({ stopped: true }) : refused('This run is not under way.', 404);
};
