/** A span of another trace. */
export interface SpanRef {
  traceId: string;
  spanId: string;
}

const NOWHERE: SpanRef = { traceId: '', spanId: '' };
const TRACE_PARENT = /^[0-9a-f]{2}-([0-9a-f]{32})-([0-9a-f]{16})-[0-9a-f]{2}$/;

/**
 * The span of the server that answered, from what `Server-Timing` says under `traceparent` (common practice: W3C Trace Context has no header for
 * answers of its own in wide use). Nothing but zeros names no span (W3C Trace Context, “trace-id”, “parent-id”).
 * @param value its description: `00-…-…-01`
 */
export function spanOf(value: string): SpanRef {
  const found = TRACE_PARENT.exec(value.trim());
  if (!found || /^0+$/.test(found[1]) || /^0+$/.test(found[2])) return NOWHERE;
  return { traceId: found[1], spanId: found[2] };
}

/** The same from the whole header: `cache;desc=hit, traceparent;desc="00-…-…-01"`. */
export function spanOfHeader(header: string): SpanRef {
  const desc = /(?:^|,)\s*traceparent\s*;[^,]*?\bdesc\s*=\s*"?([^",;\s]+)/i.exec(header)?.[1];
  return desc === undefined ? NOWHERE : spanOf(desc);
}
