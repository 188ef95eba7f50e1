import type { FileHead } from '../file-head';
import { looksLikeOtlpProfiles } from '../../profile/otlp/recognise';
import { shortVarint } from '../wire';

export const TRACE_FORMATS = ['otlp-json', 'otlp-protobuf'] as const;
export type TraceFormat = (typeof TRACE_FORMATS)[number];

/** The format of traces by their beginning; null for something else. */
export function recogniseTraces(head: FileHead): TraceFormat | null {
  if (head.isObject) return /"resourceSpans"\s*:/.test(head.text) ? 'otlp-json' : null;
  // Profiles are nested as traces are.
  return looksLikeOtlp(head.bytes) && !looksLikeOtlpProfiles(head) ? 'otlp-protobuf' : null;
}

/** Field 1, length-delimited (ResourceSpans), with a length that fits, holding field 1 or 2 of its own. */
function looksLikeOtlp(bytes: Uint8Array): boolean {
  if (bytes[0] !== 0x0a) return false;
  const { value, next } = shortVarint(bytes, 1);
  if (next < 0 || value === 0) return false;
  const inner = bytes[next];
  return inner === 0x0a || inner === 0x12;
}
