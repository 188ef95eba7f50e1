import { concat } from './concat';
import { Gunzip } from 'fflate';
import { EvidenceError } from './evidence-error';

export interface InflateLimits {
  /** Most bytes the inflated content may have. */
  maxBytes: number;
  /** Name of the setting that holds `maxBytes`, for the message. */
  setting: string;
}

const CHUNK = 64 * 1024;
/** A gzip member ends with its CRC-32 and its size (RFC 1952, 2.3.1): never shorter than this. */
const SHORTEST_MEMBER = 18;

/** True when the bytes begin with the gzip magic number (RFC 1952, 2.3.1). */
export function isGzip(bytes: Uint8Array): boolean {
  return bytes.length >= 2 && bytes[0] === 0x1f && bytes[1] === 0x8b;
}

/**
 * Inflates gzip content, refusing to grow past the limit.
 * @returns the content; the input itself where it is not gzip.
 * @throws EvidenceError `inflated-too-large`, `gzip-truncated` or `gzip-damaged`.
 */
export function gunzip(bytes: Uint8Array, limits: InflateLimits): Uint8Array {
  if (!isGzip(bytes)) return bytes;
  const parts: Uint8Array[] = [];
  let size = 0;
  let ended = false;
  const stream = new Gunzip((part, final) => {
    size += part.length;
    if (size > limits.maxBytes) {
      throw new EvidenceError(
        'inflated-too-large',
        `The content inflates to more than ${limits.maxBytes} bytes. The limit is the setting ${limits.setting}.`
      );
    }
    parts.push(part);
    ended ||= final;
  });
  try {
    for (let at = 0; at < bytes.length; at += CHUNK) {
      stream.push(bytes.subarray(at, at + CHUNK), at + CHUNK >= bytes.length);
    }
  } catch (cause) {
    if (cause instanceof EvidenceError) throw cause;
    throw new EvidenceError('gzip-damaged', `The gzip data cannot be inflated: ${(cause as Error).message}.`);
  }
  const content = concat(parts, size);
  if (!ended || bytes.length < SHORTEST_MEMBER || storedSize(bytes) !== size % 2 ** 32) {
    throw new EvidenceError(
      'gzip-truncated',
      `The gzip data ends early: ${bytes.length} bytes were read, and the size at their end does not match the ${size} bytes inflated. Send it again whole.`,
      bytes.length
    );
  }
  return content;
}

function storedSize(bytes: Uint8Array): number {
  const at = bytes.length - 4;
  return (bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16) | (bytes[at + 3] << 24)) >>> 0;
}
