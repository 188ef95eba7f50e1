import { refused } from '$lib/server/http/json-body';
import { csvOfRun } from '$lib/server/load/runs';
import type { RequestHandler } from './$types';

/** The samples of a run that is over. */
export const GET: RequestHandler = async ({ params }) => {
  const csv = await csvOfRun(params.key);
  if (csv === null) return refused('There is no such load run, or it is still under way.', 404);
  return new Response(csv, {
    headers: {
      'content-type': 'text/csv; charset=utf-8',
      'content-disposition': 'attachment; filename="load-run.csv"'
    }
  });
};
