import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { MAX_STDERR } from '@tromix/core/crashes/process-end';

/** Where this process's standard error goes: to a file a program writes by itself, and the file is read afterwards; a terminal is left alone. */
export type StderrKind = 'file' | 'terminal' | 'pipe';

export function stderrKind(): StderrKind {
  if (process.stderr.isTTY) return 'terminal';
  try {
    return fstatSync(2).isFile() ? 'file' : 'pipe';
  } catch {
    return 'terminal';
  }
}

/** Where the file of the standard error ends now. */
export const fileEnd = (): number => fstatSync(2).size;

/** The end of what the file of the standard error has got since; '' where the system does not let it be read (`/proc` is Linux’s). */
export function fileTail(from: number): string {
  let fd: number | undefined;
  try {
    fd = openSync('/proc/self/fd/2', 'r');
    const { size } = fstatSync(fd);
    const start = Math.max(from, size - MAX_STDERR);
    const bytes = Buffer.alloc(Math.max(0, size - start));
    return bytes.subarray(0, readSync(fd, bytes, 0, bytes.length, start)).toString('utf8');
  } catch {
    return '';
  } finally {
    if (fd !== undefined) closeSync(fd);
  }
}
