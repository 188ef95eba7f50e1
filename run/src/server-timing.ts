import type { Span } from '@opentelemetry/api';
import type { ClientRequest, IncomingMessage, ServerResponse } from 'node:http';

const HEADER = 'Server-Timing';

/** An answer that is about to be given; other messages have no headers to set. */
const isAnswer = (message: ServerResponse | IncomingMessage | ClientRequest): message is ServerResponse =>
  'setHeader' in message && 'statusMessage' in message && !message.headersSent;

/**
 * Says in an answer which span gives it (W3C Server Timing; common practice for W3C Trace Context, which has no header for answers in wide use), so that a
 * page load leads to its request. What the program says itself under that header stays, or takes its place.
 */
export function noteServerTiming(
  span: Span,
  message: ServerResponse | IncomingMessage | ClientRequest
): void {
  if (!isAnswer(message)) return;
  const { traceId, spanId, traceFlags } = span.spanContext();
  message.appendHeader(
    HEADER,
    `traceparent;desc="00-${traceId}-${spanId}-${traceFlags.toString(16).padStart(2, '0')}"`
  );
}
