import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, open, rename, rm, stat, type FileHandle } from 'node:fs/promises';
import path from 'node:path';

export class TooLarge extends Error {}

/** A file taken in but not yet recorded under its name. */
export interface TakenFile {
  path: string;
  id: string;
  bytes: number;
}

/** True where something could not be written for want of room: on the disk, or of what this user may use of it. */
export const isDiskFull = (cause: unknown): boolean =>
  ['ENOSPC', 'EDQUOT'].includes((cause as NodeJS.ErrnoException | null)?.code ?? '');

/** Writes all of some bytes: a single write may take only a part of them, and on a full disk does. */
export async function writeAll(handle: FileHandle, bytes: Uint8Array): Promise<void> {
  for (let at = 0; at < bytes.length;) {
    const { bytesWritten } = await handle.write(bytes, at);
    if (bytesWritten === 0)
      throw Object.assign(new Error('Nothing more can be written.'), { code: 'ENOSPC' });
    at += bytesWritten;
  }
}

/** Big evidence as files named by their content. A file is there whole or not at all. */
export class EvidenceStore {
  readonly #folder: string;

  constructor(dataFolder: string) {
    this.#folder = path.join(dataFolder, 'evidence');
  }

  /** Writes a stream under a temporary name, syncs and hashes it. The caller keeps or drops it. */
  async take(stream: AsyncIterable<Uint8Array>, maxBytes: number): Promise<TakenFile> {
    const folder = path.join(this.#folder, 'incoming');
    await mkdir(folder, { recursive: true });
    const file = path.join(folder, randomUUID());
    const hash = createHash('sha256');
    let bytes = 0;
    const handle = await open(file, 'wx');
    try {
      for await (const part of stream) {
        bytes += part.length;
        if (bytes > maxBytes)
          throw new TooLarge(
            `The file is larger than ${maxBytes} bytes. The limit is the setting TROMIX_MAX_UPLOAD_BYTES.`
          );
        hash.update(part);
        await writeAll(handle, part);
      }
      await handle.sync();
    } catch (cause) {
      await handle.close();
      await rm(file, { force: true });
      throw cause;
    }
    await handle.close();
    return { path: file, id: hash.digest('hex'), bytes };
  }

  async keep(taken: TakenFile): Promise<void> {
    const place = this.#place(taken.id);
    await mkdir(path.dirname(place), { recursive: true });
    await rename(taken.path, place);
  }

  drop(taken: TakenFile): Promise<void> {
    return rm(taken.path, { force: true });
  }

  remove(id: string): Promise<void> {
    return rm(this.#place(id), { force: true });
  }

  async read(id: string): Promise<{ bytes: number; stream: NodeJS.ReadableStream }> {
    const place = this.#place(id);
    const { size } = await stat(place);
    return { bytes: size, stream: createReadStream(place) };
  }

  /** True where the file is there. */
  has(id: string): Promise<boolean> {
    return stat(this.#place(id)).then(
      (found) => found.isFile(),
      () => false
    );
  }

  /** Where a file lies: for threads that read it from anywhere. */
  pathOf(id: string): string {
    return this.#place(id);
  }

  #place(id: string): string {
    if (!/^[0-9a-f]{64}$/.test(id)) throw new Error('That is no name of evidence.');
    return path.join(this.#folder, id.slice(0, 2), id);
  }
}
