import { otlpPost } from '$lib/server/http/otlp-post';
import { callWriter } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** OTLP/HTTP metrics. Kept is the memory of processes: it is drawn on the time rail. */
export const POST: RequestHandler = ({ request }) =>
  otlpPost(request, 'rejectedDataPoints', (body, encoding, gzip) =>
    callWriter((writer) => writer.addMetrics(body, encoding, gzip))
  );
