/**
 * Ids of the traces a run causes. The left half of each names the run, so that its requests are found in every service and nowhere else; the right half
 * is drawn from the run and the sample's number.
 * Source: W3C Trace Context Level 2, 5.4: at least the right-most seven bytes of a trace id are random.
 */

/** A run as its traces name it: 16 hexadecimal digits, not all of them 0. */
export const isRunKey = (text: string): boolean => /^[0-9a-f]{16}$/.test(text) && !/^0+$/.test(text);

/** The run a trace would belong to: whether there is one of that key is for others to say. */
export const runKeyOf = (traceId: string): string => traceId.slice(0, 16);

const hex = (value: number): string => (value >>> 0).toString(16).padStart(8, '0');

/** Murmur3's finaliser, a bijection of 32-bit numbers. Source: A. Appleby, MurmurHash3 (public domain), from memory. */
function mix(value: number): number {
  let z = value >>> 0;
  z = Math.imul(z ^ (z >>> 16), 0x85ebca6b);
  z = Math.imul(z ^ (z >>> 13), 0xc2b2ae35);
  return (z ^ (z >>> 16)) >>> 0;
}

/** Trace and span id of the request with this number of a run. Different numbers below 2³² give different ids. */
export function traceOf(runKey: string, sample: number): { traceId: string; spanId: string } {
  const seed = parseInt(runKey.slice(8), 16);
  const low = mix(sample ^ seed);
  const high = mix(low ^ parseInt(runKey.slice(0, 8), 16));
  // A span id of nothing but zeros is not valid.
  return { traceId: runKey + hex(high) + hex(low), spanId: hex(mix(high) | 1) + hex(low) };
}

/** `traceparent` of version 00, sampled. Source: W3C Trace Context, 3.2. */
export const traceparentOf = ({ traceId, spanId }: { traceId: string; spanId: string }): string =>
  `00-${traceId}-${spanId}-01`;
