import { closeSync, createReadStream, createWriteStream, openSync, readSync } from 'node:fs';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGunzip } from 'node:zlib';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { isGzip } from '@tromix/core/formats/gzip';

/** Beyond so many times its size a gzip file is a bomb; small files may shrink more. */
const MAX_RATIO = 200;
const SMALL = 64 * 1024 * 1024;

/**
 * A gzip dump inflated beside; any other is taken as it is.
 * @param setting what the limit is called.
 * @param onpart called now and then; may throw to give up.
 * @returns where the plain dump lies.
 * @throws EvidenceError `inflated-too-large`, `damaged-gzip`.
 */
export async function inflateDump(
  dump: string,
  to: string,
  { maxBytes, setting }: { maxBytes: number; setting: string },
  onpart: () => void = () => undefined
): Promise<string> {
  const handle = openSync(dump, 'r');
  const begin = new Uint8Array(3);
  readSync(handle, begin, 0, 3, 0);
  closeSync(handle);
  if (!isGzip(begin)) return dump;
  const file = createReadStream(dump);
  let bytes = 0;
  const limit = new Transform({
    transform(part: Buffer, _, done) {
      bytes += part.length;
      try {
        onpart();
        if (bytes > maxBytes)
          throw new EvidenceError(
            'inflated-too-large',
            `The dump inflates to more than ${maxBytes} bytes. The limit is ${setting}.`
          );
        if (bytes > SMALL && bytes > file.bytesRead * MAX_RATIO)
          throw new EvidenceError(
            'inflated-too-large',
            `The dump inflates to more than ${MAX_RATIO} times its size: it is no dump.`
          );
        done(null, part);
      } catch (cause) {
        done(cause as Error);
      }
    }
  });
  try {
    await pipeline(file, createGunzip(), limit, createWriteStream(to));
  } catch (cause) {
    const { code } = cause as NodeJS.ErrnoException;
    // Of a gzip file that is cut off, what could be inflated is read: the reader says where it ends.
    if (code !== 'Z_BUF_ERROR' || bytes === 0) {
      if (code?.startsWith('Z_'))
        throw new EvidenceError('damaged-gzip', `The gzip data is damaged after ${bytes} bytes.`);
      throw cause;
    }
  }
  return to;
}
