import { error, json } from '@sveltejs/kit';
import { callRecorder } from '$lib/server/workers';
import type { RequestHandler } from './$types';

const GONE = 'This observation is not here any more: values are kept in memory alone, and not for long.';

/** How far an observation is, with what it saw. */
export const GET: RequestHandler = async ({ params }) => {
  const observed = await callRecorder((recorder) => recorder.observed(params.id));
  if (!observed) error(404, GONE);
  return json(observed, { headers: { 'cache-control': 'no-store' } });
};

/** Ends it before its time. */
export const DELETE: RequestHandler = async ({ params }) => {
  if (!(await callRecorder((recorder) => recorder.endObservation(params.id)))) error(404, GONE);
  return json({});
};
