import * as v from 'valibot';
import { readJson, refused } from '$lib/server/http/json-body';
import { endRecording } from '$lib/server/record/recorder';
import type { RequestHandler } from './$types';

const End = v.object({ how: v.picklist(['stop', 'cancel'], 'takes stop or cancel') });

/** Ends a recording before its time: `stop` keeps what there is, `cancel` does not. */
export const POST: RequestHandler = async ({ request, params }) => {
  const order = await readJson(request, End);
  if (!order.ok) return refused(order.message);
  const ended = await endRecording(params.id, order.value.how);
  return ended ? new Response(null, { status: 204 }) : refused('This recording is over already.', 409);
};
