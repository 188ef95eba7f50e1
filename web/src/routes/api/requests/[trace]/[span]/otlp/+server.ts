import { error } from '@sveltejs/kit';
import { writeTracesJson } from '@tromix/core/formats/otlp/write';
import { spansOf } from '$lib/server/queries/request';
import type { RequestHandler } from './$types';

/** The whole trace as OTLP JSON: one object, or where it is very large one object a line. */
export const GET: RequestHandler = async ({ params }) => {
  const parts = spansOf(params.trace);
  const first = await parts.next();
  if (first.done) error(404, 'This trace is not kept here any more.');
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    start: (controller) => controller.enqueue(encoder.encode(writeTracesJson(first.value))),
    async pull(controller) {
      const next = await parts.next();
      if (next.done) controller.close();
      else controller.enqueue(encoder.encode(`\n${writeTracesJson(next.value)}`));
    }
  });
  return new Response(stream, {
    headers: {
      'content-type': 'application/json',
      'content-disposition': `attachment; filename="trace-${params.trace.slice(0, 8)}.otlp.json"`
    }
  });
};
