import { error } from '@sveltejs/kit';
import { otlpPost } from '$lib/server/http/otlp-post';
import { SIGNALS, type SignalName } from '$lib/server/ingest/signals';
import type { RequestHandler } from './$types';

/** OTLP/HTTP: traces, logs and metrics. */
export const POST: RequestHandler = ({ request, params }) => {
  if (!Object.hasOwn(SIGNALS, params.signal))
    error(404, `There is no signal ${params.signal}. Expected ${Object.keys(SIGNALS).join(', ')}.`);
  return otlpPost(request, params.signal as SignalName);
};
