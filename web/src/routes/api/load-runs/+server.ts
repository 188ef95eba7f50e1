import { json } from '@sveltejs/kit';
import { LIMITS } from '@tromix/core/load/plan';
import { readJson, refused } from '$lib/server/http/json-body';
import { RunOrder } from '$lib/server/load/run-order';
import { startRun } from '$lib/server/load/runs';
import type { RequestHandler } from './$types';

/** A body of the largest size, quoted as JSON, and all else of a plan. */
const MAX_BYTES = 2 * LIMITS.bodyBytes + 1024 * 1024;

/** Starts a load run; it ends by itself. */
export const POST: RequestHandler = async ({ request }) => {
  const order = await readJson(request, RunOrder, MAX_BYTES);
  if (!order.ok) return refused(order.message);
  const { plan, record, key } = order.value;
  const started = await startRun(plan, record, key);
  return started.ok ? json({ key: started.key }, { status: 201 }) : refused(started.message, started.status);
};
