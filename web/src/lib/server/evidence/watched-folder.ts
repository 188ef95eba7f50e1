import { createReadStream } from 'node:fs';
import { lstat, mkdir, readdir, rename, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { takeEvidence } from './take-evidence';

/** How often the folder is looked at; a file is taken once it did not grow for as long. */
const LOOK_MS = 2000;
/** Files that were taken or refused go to folders of these names beside them. */
const TAKEN = 'taken';
const REFUSED = 'refused';

interface Seen {
  bytes: number;
  changedMs: number;
}

/**
 * Takes in every file that is put into a folder: dumps by scripts and machines that reach a disk but no server. Files in a
 * folder of their own called `service` or `service@host` are of that service. What was taken is moved to `taken`; what cannot be read to
 * `refused`, with the reason beside it. Links are not followed.
 */
export class WatchedFolder {
  readonly #folder: string;
  #seen = new Map<string, Seen>();
  /** Files that could not be taken, as they were then. */
  readonly #givenUp = new Map<string, Seen>();
  #said = '';

  constructor(folder: string) {
    this.#folder = folder;
  }

  /** Looks until the process ends. */
  keepLooking(): void {
    const look = (): void =>
      void this.look()
        .then(
          () => (this.#said = ''),
          (cause: unknown) => {
            const words = `The watched folder cannot be read: ${(cause as Error).message}`;
            // Told once, until it can be read again or something else is wrong.
            if (words !== this.#said) console.error(words);
            this.#said = words;
          }
        )
        .finally(() => setTimeout(look, LOOK_MS).unref());
    look();
  }

  /** One look: files that are as they were at the last look are taken. */
  async look(): Promise<void> {
    const now = new Map<string, Seen>();
    for (const file of await this.#files()) {
      const stat = await lstat(file).catch(() => null);
      if (!stat?.isFile()) continue;
      const seen = { bytes: stat.size, changedMs: stat.mtimeMs };
      const before = this.#seen.get(file);
      // Empty so far: its writer has only just opened it.
      if (seen.bytes > 0 && before?.bytes === seen.bytes && before.changedMs === seen.changedMs)
        await this.#takeSafely(file, seen);
      else if (!this.#isGivenUp(file, seen)) now.set(file, seen);
    }
    this.#seen = now;
  }

  /** One file that cannot be taken holds up no other. It is tried again when it changes, and reported once. */
  async #takeSafely(file: string, seen: Seen): Promise<void> {
    if (this.#isGivenUp(file, seen)) return;
    try {
      await this.#take(file);
    } catch (cause) {
      this.#givenUp.set(file, seen);
      console.error(`${file} in the watched folder could not be taken in: ${(cause as Error).message}`);
    }
  }

  #isGivenUp(file: string, { bytes, changedMs }: Seen): boolean {
    const given = this.#givenUp.get(file);
    if (given?.bytes === bytes && given.changedMs === changedMs) return true;
    this.#givenUp.delete(file);
    return false;
  }

  async #files(): Promise<string[]> {
    const files: string[] = [];
    for (const entry of await readdir(this.#folder, { withFileTypes: true })) {
      const here = path.join(this.#folder, entry.name);
      if (entry.name.startsWith('.') || entry.name === TAKEN || entry.name === REFUSED) continue;
      if (entry.isFile()) files.push(here);
      else if (entry.isDirectory())
        for (const inside of await readdir(here, { withFileTypes: true }).catch(() => []))
          if (inside.isFile() && !inside.name.startsWith('.')) files.push(path.join(here, inside.name));
    }
    return files;
  }

  async #take(file: string): Promise<void> {
    const within = path.relative(this.#folder, path.dirname(file));
    const [service = '', host = ''] = within.split('@');
    const name = path.basename(file);
    const label = { name, service, host, release: '', pid: 0, startedAtUs: null };
    const outcome = await takeEvidence(createReadStream(file), label);
    // Whoever frees the disk need not put the file here once more.
    if (!outcome.ok && outcome.code === 'disk-full') throw new Error(outcome.message);
    const folder = path.join(this.#folder, outcome.ok ? TAKEN : REFUSED);
    await mkdir(folder, { recursive: true });
    const place = path.join(folder, `${Date.now()}-${name}`);
    await rename(file, place);
    if (!outcome.ok) await writeFile(`${place}.why.txt`, `${outcome.message}\n`);
  }
}
