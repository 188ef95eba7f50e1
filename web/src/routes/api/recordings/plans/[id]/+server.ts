import { publish } from '$lib/server/live';
import { callWriter } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Ends a plan. What it recorded stays. */
export const DELETE: RequestHandler = async ({ params }) => {
  await callWriter((writer) =>
    writer.change([{ sql: 'DELETE FROM recording_plans WHERE id = ?', args: [params.id] }])
  );
  publish('recordings');
  return new Response(null, { status: 204 });
};
