import { beforeSending, takeFromPage } from '$lib/server/http/collect';
import { encodingOf } from '$lib/server/http/otlp-answer';
import { noteRejected } from '$lib/server/http/turned-away';
import { callWriter } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** Parts of page loads as OTLP traces. A beacon is sent as plain text, since browsers ask beforehand for anything else: it is JSON. */
export const POST: RequestHandler = ({ request, url }) => {
  const encoding = encodingOf(request.headers.get('content-type')) ?? 'json';
  const receivedUs = Date.now() * 1000;
  return takeFromPage(request, url, async (body) => {
    const outcome = await callWriter((writer) => writer.collect({ body, encoding, gzip: false }, receivedUs));
    if (outcome.ok) noteRejected(outcome.value.rejected);
    return outcome;
  });
};

export const OPTIONS: RequestHandler = ({ request }) => beforeSending(request);
