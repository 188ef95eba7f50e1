import { createReadStream } from 'node:fs';
import { open } from 'node:fs/promises';
import { createGunzip } from 'node:zlib';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { isGzip } from '@tromix/core/formats/gzip';

/** Of the beginning; enough to tell what a file is. */
const HEAD = 256 * 1024;

/** A file as it lies on the disk. */
export interface StoredFile {
  path: string;
  gzip: boolean;
  /** The beginning of its content. */
  head: Uint8Array;
}

/** Looks at the beginning of a file, inflated where it is gzip, and at no more: a few bytes may inflate to any length. */
export async function openStored(path: string): Promise<StoredFile> {
  const first = await firstBytes(path);
  const gzip = isGzip(first);
  return { path, gzip, head: gzip ? await inflatedHead(first) : first };
}

async function firstBytes(path: string): Promise<Uint8Array> {
  const handle = await open(path);
  try {
    const { buffer, bytesRead } = await handle.read(new Uint8Array(HEAD), 0, HEAD, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

async function inflatedHead(first: Uint8Array): Promise<Uint8Array> {
  const inflate = createGunzip();
  inflate.end(first);
  const parts: Uint8Array[] = [];
  let bytes = 0;
  try {
    for await (const part of inflate as AsyncIterable<Uint8Array>) {
      parts.push(part);
      bytes += part.length;
      if (bytes >= HEAD) break;
    }
  } catch {
    // It breaks off within the data: what came before is enough. Damage is recognised by who reads it whole.
  }
  return Buffer.concat(parts);
}

/** Beyond so many times its size a gzip file is a bomb; small files may shrink more. */
const MAX_RATIO = 200;
const SMALL = 64 * 1024 * 1024;

export interface ContentLimits {
  maxBytes: number;
  /** What the limit is called, for the message. */
  setting: string;
  /** Of a file that is cut off, what could be inflated is given. */
  cut?: boolean;
}

/**
 * The content of a file as it comes, inflated where it is gzip.
 * @throws EvidenceError `inflated-too-large`, `gzip-damaged`.
 */
export async function* contentOf(
  { path, gzip }: Pick<StoredFile, 'path' | 'gzip'>,
  { maxBytes, setting, cut = false }: ContentLimits
): AsyncGenerator<Uint8Array> {
  const stored = createReadStream(path);
  if (!gzip) {
    yield* stored as AsyncIterable<Uint8Array>;
    return;
  }
  let bytes = 0;
  try {
    const inflate = stored.on('error', (cause) => inflate.destroy(cause)).pipe(createGunzip());
    for await (const part of inflate as AsyncIterable<Uint8Array>) {
      bytes += part.length;
      refuseBomb(bytes, stored.bytesRead, { maxBytes, setting });
      yield part;
    }
  } catch (cause) {
    const { code } = cause as NodeJS.ErrnoException;
    if (!code?.startsWith('Z_')) throw cause;
    if (cut && code === 'Z_BUF_ERROR' && bytes > 0) return;
    throw new EvidenceError('gzip-damaged', `The gzip data is damaged after ${bytes} bytes.`);
  } finally {
    stored.destroy();
  }
}

function refuseBomb(bytes: number, read: number, { maxBytes, setting }: ContentLimits): void {
  if (bytes > maxBytes)
    throw new EvidenceError(
      'inflated-too-large',
      `The file inflates to more than ${maxBytes} bytes. The limit is ${setting}.`
    );
  if (bytes > SMALL && bytes > read * MAX_RATIO)
    throw new EvidenceError(
      'inflated-too-large',
      `The file inflates to more than ${MAX_RATIO} times its size: it is a bomb, and no evidence.`
    );
}
