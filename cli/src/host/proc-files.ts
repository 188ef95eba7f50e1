import { readdirSync, readFileSync } from 'node:fs';

/** The `proc` file system of Linux; elsewhere there is none. Source of every field: proc(5). */
export class ProcFiles {
  readonly #root: string;

  /** @param root where it is mounted: that of another machine for tests, or of the host within a container */
  constructor(root = '/proc') {
    this.#root = root;
  }

  /** The text of a file; null where there is none, it may not be read, or its process has ended. */
  read(file: string): string | null {
    try {
      return readFileSync(`${this.#root}/${file}`, 'utf8');
    } catch {
      return null;
    }
  }

  pids(): number[] {
    return this.list('.')
      .filter((name) => /^\d+$/.test(name))
      .map(Number);
  }

  /** Names in a folder; none where it may not be read. */
  list(folder: string): string[] {
    try {
      return readdirSync(`${this.#root}/${folder}`);
    } catch {
      return [];
    }
  }
}

/** The numbers of a `name: value` list, by name, in the unit it is written in. */
export function numbersIn(text: string | null): Map<string, number> {
  const found = new Map<string, number>();
  for (const [, name, value] of text?.matchAll(/^(\w[\w()]*):?\s+(\d+)/gm) ?? [])
    found.set(name, Number(value));
  return found;
}

/** Clock ticks a second: the kernel tells processes 100 on every architecture in use (proc(5), `sysconf(_SC_CLK_TCK)`). */
export const TICKS = 100;
