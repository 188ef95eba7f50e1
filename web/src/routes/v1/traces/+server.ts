import { otlpPost } from '$lib/server/http/otlp-post';
import { callWriter } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** OTLP/HTTP traces. */
export const POST: RequestHandler = ({ request }) =>
  otlpPost(request, 'rejectedSpans', (body, encoding, gzip) =>
    callWriter((writer) => writer.ingest(body, encoding, gzip))
  );
