import { BodyTooLarge, readBody } from '$lib/server/http/read-body';
import { encodingOf, otlpAccepted, otlpFailed, RPC } from '$lib/server/http/otlp-answer';
import { settings } from '$lib/server/settings';
import { callWriter } from '$lib/server/workers';
import type { RequestHandler } from './$types';

/** OTLP/HTTP traces (OTLP 1.x): JSON or protobuf, plain or gzip. Acknowledged once the spans are committed. */
export const POST: RequestHandler = async ({ request }) => {
  const encoding = encodingOf(request.headers.get('content-type'));
  if (!encoding) {
    return otlpFailed(
      'json',
      415,
      RPC.INVALID_ARGUMENT,
      `Expected the content type application/x-protobuf or application/json, but found ${request.headers.get('content-type') ?? 'none'}.`
    );
  }
  const coding = (request.headers.get('content-encoding') ?? 'identity').toLowerCase();
  if (coding !== 'gzip' && coding !== 'identity') {
    return otlpFailed(
      encoding,
      415,
      RPC.INVALID_ARGUMENT,
      `Expected the content encoding gzip or none, but found ${coding}.`
    );
  }
  const { maxBatchBytes } = settings();
  try {
    const body = await readBody(request, maxBatchBytes);
    const outcome = await callWriter((writer) => writer.ingest(body, encoding, coding === 'gzip'));
    if (outcome.ok) return otlpAccepted(encoding, outcome.value);
    const tooLarge = outcome.code === 'inflated-too-large';
    return otlpFailed(
      encoding,
      tooLarge ? 413 : 400,
      tooLarge ? RPC.RESOURCE_EXHAUSTED : RPC.INVALID_ARGUMENT,
      outcome.message
    );
  } catch (cause) {
    if (cause instanceof BodyTooLarge) {
      return otlpFailed(
        encoding,
        413,
        RPC.RESOURCE_EXHAUSTED,
        `The body is larger than ${maxBatchBytes} bytes. The limit is the setting TROMIX_MAX_BATCH_BYTES; send smaller batches.`
      );
    }
    console.error('A batch could not be stored:', cause);
    return otlpFailed(
      encoding,
      503,
      RPC.UNAVAILABLE,
      'The batch could not be stored just now. Nothing of it was kept; send it again.'
    );
  }
};
