import { gunzip, isGzip, type InflateLimits } from '@tromix/core/formats/gzip';

/**
 * Inflates gzip content with the browser's own code, several times faster than code of ours. Whatever is unusual (damage, several
 * members, sizes that do not match) is left to `gunzip`, which has the words for it.
 * @returns the content; the input itself where it is not gzip.
 * @throws EvidenceError as `gunzip`.
 */
export async function inflate(bytes: Uint8Array<ArrayBuffer>, limits: InflateLimits): Promise<Uint8Array> {
  if (!isGzip(bytes)) return bytes;
  return (await inflatedAsTold(bytes, limits.maxBytes)) ?? gunzip(bytes, limits);
}

/** Header, at least one block, CRC-32 and size. */
const SHORTEST_MEMBER = 18;

/** The content where it has just the size that stands at the end of the data (RFC 1952, 2.3.1: ISIZE); else null. */
async function inflatedAsTold(bytes: Uint8Array<ArrayBuffer>, maxBytes: number): Promise<Uint8Array | null> {
  if (bytes.length < SHORTEST_MEMBER) return null;
  const size = new DataView(bytes.buffer, bytes.byteOffset + bytes.length - 4).getUint32(0, true);
  if (size > maxBytes) return null;
  const content = new Uint8Array(size);
  let at = 0;
  try {
    const reader = new Blob([bytes]).stream().pipeThrough(new DecompressionStream('gzip')).getReader();
    for (let part = await reader.read(); !part.done; part = await reader.read()) {
      if (at + part.value.length > size) {
        await reader.cancel();
        return null;
      }
      content.set(part.value, at);
      at += part.value.length;
    }
  } catch {
    return null;
  }
  return at === size ? content : null;
}
