import type { Accepted } from '../ingest/accepted';
import type { Outcome } from '../ingest/outcome';
import { SIGNALS, type SentBody, type SignalName } from '../ingest/signals';
import { settings } from '../settings';
import { callWriter } from '../workers';
import { encodingOf, otlpAccepted, otlpFailed, RPC, type RejectedName } from './otlp-answer';
import { BodyTooLarge, TooManyUnderWay, TooSlow, withBody } from './read-body';

/** Takes spans, log records or points as they are sent. Acknowledged once they are committed. */
export const otlpPost = (request: Request, signal: SignalName): Promise<Response> =>
  otlpBody(request, SIGNALS[signal].rejectedName, (sent) =>
    callWriter((writer) => writer.receive(signal, sent))
  );

/** Takes an OTLP/HTTP body (OTLP 1.x): JSON or protobuf, plain or gzip. @param take what is done with it */
export async function otlpBody(
  request: Request,
  rejectedName: RejectedName,
  take: (sent: SentBody) => Promise<Outcome<Pick<Accepted, 'rejected' | 'warnings'>>>
): Promise<Response> {
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
    const outcome = await withBody(request, maxBatchBytes, (body) =>
      take({ body, encoding, gzip: coding === 'gzip' })
    );
    if (outcome.ok) return otlpAccepted(encoding, outcome.value, rejectedName);
    // A full disk is a thing of the moment: by the standard only 429, 502, 503 and 504 are sent again.
    if (outcome.code === 'busy' || outcome.code === 'disk-full')
      return otlpFailed(encoding, 503, RPC.UNAVAILABLE, outcome.message);
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
    if (cause instanceof TooManyUnderWay) return otlpFailed(encoding, 503, RPC.UNAVAILABLE, cause.message);
    if (cause instanceof TooSlow) return otlpFailed(encoding, 408, RPC.INVALID_ARGUMENT, cause.message);
    console.error(`A batch could not be stored: ${(cause as Error).message}`);
    return otlpFailed(
      encoding,
      503,
      RPC.UNAVAILABLE,
      'The batch could not be stored whole just now. Send it again: what was stored of it is not counted twice.'
    );
  }
}
