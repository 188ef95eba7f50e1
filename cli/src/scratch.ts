import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';

/** What a command holds on the disk until it ends: folders, and files that are open. */
export class Scratch {
  readonly #folders: string[] = [];
  readonly #open: { close: () => void }[] = [];

  folder(): string {
    const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-'));
    this.#folders.push(folder);
    return folder;
  }

  /** Closes a thing at the end. */
  keep<T extends { close: () => void }>(one: T): T {
    this.#open.push(one);
    return one;
  }

  close(): void {
    for (const one of this.#open.splice(0)) one.close();
    for (const folder of this.#folders.splice(0)) rmSync(folder, { recursive: true, force: true });
  }
}
