import { publish } from '$lib/server/live';
import { change } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Ends a plan. What it recorded stays. */
export const DELETE: RequestHandler = async ({ params }) => {
  await change('removePlan', params.id);
  publish('recordings');
  return new Response(null, { status: 204 });
};
