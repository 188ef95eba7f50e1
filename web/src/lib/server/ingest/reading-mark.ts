import { closeSync, openSync, readFileSync, writeSync } from 'node:fs';

/** What is being worked on, as it is written down. */
export interface Marked {
  kind: 'trace' | 'batch';
  /** Hexadecimal digits. */
  id: string;
}

const LENGTH = 80;
const SPACE = 0x20;

/**
 * A small file that names what a thread is working on, so that its successor knows what it died of: the thread, or the whole process. It is written
 * in place, some microseconds each time, and needs no sync: what a process has written outlives it.
 */
export class ReadingMark {
  readonly #handle: number;
  readonly #bytes = Buffer.alloc(LENGTH);

  /** @param file '' for none: then nothing is written down. */
  constructor(file: string) {
    this.#handle = file === '' ? -1 : openSync(file, 'w');
  }

  /** Names what is worked on from now on. */
  on(kind: Marked['kind'], id: string): void {
    this.#write(`${kind} ${id}`);
  }

  /** Nothing is worked on any more. */
  off(): void {
    this.#write('');
  }

  /** Does some work without a pause in it, and names what it is on meanwhile. */
  during<T>(kind: Marked['kind'], id: string, work: () => T): T {
    this.on(kind, id);
    try {
      return work();
    } finally {
      this.off();
    }
  }

  close(): void {
    if (this.#handle >= 0) closeSync(this.#handle);
  }

  #write(text: string): void {
    if (this.#handle < 0) return;
    this.#bytes.fill(SPACE);
    this.#bytes.write(text, 'latin1');
    writeSync(this.#handle, this.#bytes, 0, LENGTH, 0);
  }
}

/** What was being worked on when the last one to write the file died; null where it ended its work. */
export function leftMark(file: string): Marked | null {
  if (file === '') return null;
  let text: string;
  try {
    text = readFileSync(file, 'utf8').trim();
  } catch {
    return null;
  }
  const found = /^(trace|batch) ([0-9a-f]{16,64})$/.exec(text);
  return found ? { kind: found[1] as Marked['kind'], id: found[2] } : null;
}
