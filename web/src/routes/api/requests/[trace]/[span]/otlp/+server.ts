import { error } from '@sveltejs/kit';
import { writeTracesJson } from '@tromix/core/formats/otlp/write';
import { spansOf } from '$lib/server/queries/request';
import type { RequestHandler } from './$types';

/** The whole trace as OTLP JSON. */
export const GET: RequestHandler = async ({ params }) => {
  const spans = await spansOf(params.trace);
  if (spans.length === 0) error(404, 'This trace is not kept here any more.');
  return new Response(writeTracesJson(spans), {
    headers: {
      'content-type': 'application/json',
      'content-disposition': `attachment; filename="trace-${params.trace.slice(0, 8)}.otlp.json"`
    }
  });
};
