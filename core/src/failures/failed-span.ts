import { isEntry } from '../trace/endpoint';
import { isFailed } from '../trace/requests';
import { numberOf, SpanKind, textOf, type Span, type SpanEvent } from '../trace/span';
import type { RecordedException } from './identity';
import { messageTemplate } from './message-template';

/** HTTP status from which an outgoing call is one that failed (OpenTelemetry semantic conventions for HTTP spans, "Status"). */
const CALL_FAILS_FROM = 400;

/** What is said of a span that did not fail and names no exception, where its log tells of an error. */
export const ERROR_IN_LOG = 'an error in its log';

/** The exception events of a span (OpenTelemetry semantic conventions, "Exceptions on spans"). */
const exceptionEvents = ({ events }: Span): SpanEvent[] =>
  events.length === 0 ? events : events.filter(({ name }) => name === 'exception');

/** Whether a span failed, or tells of an exception. */
export const tellsOfFailure = (span: Span): boolean => failed(span) || exceptionEvents(span).length > 0;

/** Whether a span itself failed: by its status, by a status of HTTP from 500 on, of an outgoing call from 400 on. */
export function failed(span: Span): boolean {
  if (isFailed(span)) return true;
  if (span.kind !== SpanKind.CLIENT) return false;
  const status = httpStatus(span);
  return status !== undefined && status >= CALL_FAILS_FROM;
}

export const httpStatus = ({ attributes }: Span): number | undefined =>
  numberOf(attributes, 'http.response.status_code', 'http.status_code');

/** What an exception event, or an error log record, says was thrown. */
export const recordedException = (attributes: Span['attributes']): RecordedException => ({
  type: textOf(attributes, 'exception.type'),
  message: textOf(attributes, 'exception.message'),
  stack: textOf(attributes, 'exception.stacktrace')
});

/** The exceptions a span tells of, in the order it tells of them: the last one is the one it ended with. */
export const exceptionsOf = (span: Span): { event: SpanEvent; exception: RecordedException }[] =>
  exceptionEvents(span).map((event) => ({ event, exception: recordedException(event.attributes) }));

/** How a span failed that tells of no exception, in the words of its own facts: a status of HTTP or RPC, what it says of itself with its values replaced, or only that it failed. */
export function failureWords(span: Span): string {
  const status = httpStatus(span);
  const peer = textOf(span.attributes, 'peer.service', 'server.address', 'net.peer.name');
  const code =
    status !== undefined && status >= CALL_FAILS_FROM
      ? String(status)
      : textOf(span.attributes, 'error.type', 'rpc.response.status_code') ||
        messageTemplate(span.statusMessage) ||
        'failed';
  return !isEntry(span) && peer ? `${code} from ${peer}` : code;
}
