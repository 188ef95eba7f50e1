import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { appendFile, readFile } from 'node:fs/promises';
import path from 'node:path';
import type { Attributes } from '@opentelemetry/api';
import { originAttributes } from './origin';
import { inSpan } from './telemetry';

/** Where the files of Quillhaven lie on its invented hosts. */
const THERE = '/var/lib/quillhaven';

/** A service's own files. Every read and write is a span with its path, its bytes and the line that asked. */
export class Files {
  readonly #folder: string;

  constructor(folder: string) {
    this.#folder = folder;
  }

  read(name: string): Promise<string> {
    return inSpan('file readFile', this.#attributes('readFile', name), async (span) => {
      const text = await readFile(path.join(this.#folder, name), 'utf8');
      span.setAttribute('file.bytes_read', Buffer.byteLength(text));
      return text;
    });
  }

  append(name: string, text: string): Promise<void> {
    return inSpan('file appendFile', this.#attributes('appendFile', name), async (span) => {
      await appendFile(path.join(this.#folder, name), text);
      span.setAttribute('file.bytes_written', Buffer.byteLength(text));
    });
  }

  /** Set-up only: a file that is not there is made, without a span. */
  setUp(name: string, text: () => string): void {
    const file = path.join(this.#folder, name);
    if (existsSync(file)) return;
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, text());
  }

  #attributes(operation: string, name: string): Attributes {
    return { 'file.operation': operation, 'file.path': path.posix.join(THERE, name), ...originAttributes() };
  }
}
