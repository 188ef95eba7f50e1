import { mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import path from 'node:path';
import type { ProcessEnd } from '@tromix/core/crashes/process-end';
import { withoutSecrets } from '@tromix/core/mask/documents';

/** What Node.js is started with, so that it writes how a process ended. */
export const reportOptions = (folder: string): string[] => [
  '--report-on-fatalerror',
  '--report-uncaught-exception',
  `--report-directory=${folder}`
];

export interface Died {
  pid: number;
  startedAtMs: number;
  code: number | null;
  signal: NodeJS.Signals | null;
  stderr: string;
}

/** The end of a process in the form that `tromix run` hands it over in, with the report it wrote into a folder. */
export function processEndOf(folder: string, { pid, startedAtMs, code, signal, stderr }: Died): string {
  mkdirSync(folder, { recursive: true });
  const name = readdirSync(folder).find((file) => new RegExp(`^report\\.\\d+\\.\\d+\\.${pid}\\.`).test(file));
  const end: ProcessEnd = {
    processEnd: 1,
    program: 'node src/service.ts',
    runtime: `Node.js ${process.version}`,
    pid,
    startedAtMs,
    endedAtMs: Date.now(),
    exitCode: code,
    signal: signal ?? '',
    stderr,
    thrown: '',
    ...(name ? { nodeReport: JSON.parse(readFileSync(path.join(folder, name), 'utf8')) as unknown } : {})
  };
  if (name) rmSync(path.join(folder, name));
  return JSON.stringify(withoutSecrets({ ...end }));
}
