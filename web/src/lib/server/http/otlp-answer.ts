import { ExportTraceServiceResponse, RpcStatus } from '@tromix/core/formats/otlp/schema';
import { noteRejected, noteTurnedAway } from './turned-away';
import type { Accepted, Encoding } from '../ingest/accepted';

/** Codes of google.rpc.Code that OTLP/HTTP answers carry. */
export const RPC = {
  INVALID_ARGUMENT: 3,
  NOT_FOUND: 5,
  RESOURCE_EXHAUSTED: 8,
  UNAUTHENTICATED: 16,
  UNAVAILABLE: 14
} as const;

const TYPES: Record<Encoding, string> = { json: 'application/json', protobuf: 'application/x-protobuf' };

/** The encoding a content type names; null for one OTLP/HTTP does not know. */
export function encodingOf(contentType: string | null): Encoding | null {
  const type = (contentType ?? '').split(';')[0].trim().toLowerCase();
  if (type === TYPES.protobuf) return 'protobuf';
  return type === TYPES.json ? 'json' : null;
}

/** How a signal names what it rejects in its partial success; the field's number is 1 for each. */
export type RejectedName = 'rejectedSpans' | 'rejectedLogRecords' | 'rejectedDataPoints' | 'rejectedProfiles';

/** 200 with a partial success where something was rejected (OTLP 1.x, "Partial Success"), in the encoding that was asked in. */
export function otlpAccepted(
  encoding: Encoding,
  { rejected, warnings }: Pick<Accepted, 'rejected' | 'warnings'>,
  name: RejectedName = 'rejectedSpans'
): Response {
  const count = rejected.reduce((sum, one) => sum + one.count, 0);
  noteRejected(rejected);
  const words = [
    ...rejected.map(({ reason, count }) => `${count} rejected: ${reason}`),
    ...warnings.map(({ message, count }) => `${count} warned: ${message}`)
  ].join(' ');
  const partial =
    words === ''
      ? {}
      : {
          partialSuccess: {
            // On the wire the field is the same for each signal; only JSON tells its name.
            ...(encoding === 'json' ? { [name]: String(count) } : { rejectedSpans: count }),
            errorMessage: words
          }
        };
  return answer(encoding, 200, partial, ExportTraceServiceResponse);
}

/** An error with google.rpc.Status as its body (OTLP 1.x, "Failures"). It is noted for who looks after what is sent. */
export function otlpFailed(encoding: Encoding, status: number, code: number, message: string): Response {
  noteTurnedAway(status, message);
  const response = answer(encoding, status, { code, message }, RpcStatus);
  // The standard lets a client try 429 and 503 again, and names this header.
  if (status === 503) response.headers.set('retry-after', '2');
  return response;
}

function answer(encoding: Encoding, status: number, body: object, type: typeof RpcStatus): Response {
  const content =
    encoding === 'json' ? JSON.stringify(body) : new Uint8Array(type.encode(type.create(body)).finish());
  return new Response(content, { status, headers: { 'content-type': TYPES[encoding] } });
}
