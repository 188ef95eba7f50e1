import { createWriteStream } from 'node:fs';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { contentOf, openStored, type ContentLimits } from '../evidence/stored-file';

/**
 * A gzip dump inflated beside; any other is taken as it is. Of one that is cut off, what could be inflated is read: the reader says where it ends.
 * @param onpart called now and then; may throw to give up.
 * @returns where the plain dump lies.
 * @throws EvidenceError `inflated-too-large`, `gzip-damaged`.
 */
export async function inflateDump(
  dump: string,
  to: string,
  limits: ContentLimits,
  onpart: () => void = () => undefined
): Promise<string> {
  const stored = await openStored(dump);
  if (!stored.gzip) return dump;
  const watched = async function* (): AsyncGenerator<Uint8Array> {
    for await (const part of contentOf(stored, { ...limits, cut: true })) {
      onpart();
      yield part;
    }
  };
  await pipeline(Readable.from(watched()), createWriteStream(to));
  return to;
}
