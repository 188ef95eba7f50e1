import { otlpPost } from '$lib/server/http/otlp-post';
import { callWriter } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** OTLP/HTTP logs. Kept are the records that name a trace: they are shown on its time axis. */
export const POST: RequestHandler = ({ request }) =>
  otlpPost(request, 'rejectedLogRecords', (body, encoding, gzip) =>
    callWriter((writer) => writer.addLogs(body, encoding, gzip))
  );
