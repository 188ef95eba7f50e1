import { spawn, type ChildProcess, type SendHandle, type Serializable } from 'node:child_process';
import type { Readable } from 'node:stream';
import { proxySignals } from 'foreground-child/proxy-signals';
import { watchdog } from 'foreground-child/watchdog';
import { MAX_STDERR } from '@tromix/core/crashes/process-end';
import { fileEnd, fileTail, stderrKind } from './own-stderr';
import { Tail } from './tail';

/** How a program ended. */
export interface Ended {
  pid: number;
  code: number | null;
  signal: NodeJS.Signals | null;
  /** The signal that this process passed on to it, last. */
  passedOn: NodeJS.Signals | null;
  /** The end of its standard error; '' where that is a terminal’s. */
  stderr: string;
}

/** After its end the standard error is read until nothing came for so long: it stays open where the program left others running. */
const SILENCE_MS = 250;
const MOST_MS = 10_000;
/** Signals by which somebody asks for an end. */
const ASKING: readonly NodeJS.Signals[] = ['SIGHUP', 'SIGINT', 'SIGTERM', 'SIGQUIT'];

/**
 * Runs a program in the place of this one: streams and signals pass through. A standard error that is no terminal is read on its way.
 * @param ended what is done before this process ends as the program did
 */
export function runInForeground(
  [program, ...args]: readonly string[],
  env: NodeJS.ProcessEnv,
  readsStderr: boolean,
  ended: (how: Ended) => Promise<void>
): ChildProcess {
  const kind = readsStderr ? stderrKind() : 'terminal';
  const from = kind === 'file' ? fileEnd() : 0;
  const child = spawn(program, args, {
    env,
    stdio: [0, 1, kind === 'pipe' ? 'pipe' : 2, ...(process.send ? (['ipc'] as const) : [])]
  });
  if (process.send) passMessagesOn(child);
  const tail = new Tail(MAX_STDERR);
  child.stderr?.on('data', (part: Buffer) => tail.add(part)).pipe(process.stderr);
  let passedOn: NodeJS.Signals | null = null;
  for (const signal of ASKING) process.on(signal, () => (passedOn = signal));
  proxySignals(child);
  child.once('spawn', () => watchdog(child));
  child.once('exit', (code, signal) => {
    const end = (): void =>
      void ended({
        pid: child.pid!,
        code,
        signal,
        passedOn,
        stderr: kind === 'file' ? fileTail(from) : tail.text
      }).finally(() => endAlike(code, signal));
    if (child.stderr) afterLastWords(child.stderr, end);
    else end();
  });
  return child;
}

/** Whoever started this process by `fork` talks to the program. */
function passMessagesOn(child: ChildProcess): void {
  child.on('message', (message, handle) => void process.send?.(message, handle));
  process.on('message', (message: Serializable, handle) => void child.send(message, handle as SendHandle));
  process.on('disconnect', () => {
    if (child.connected) child.disconnect();
  });
  child.on('disconnect', () => {
    if (process.connected) process.disconnect();
  });
}

function afterLastWords(stream: Readable, then: () => void): void {
  if (stream.readableEnded) return then();
  const done = (): void => {
    for (const timer of [silence, most]) clearTimeout(timer);
    stream.off('data', again).off('end', done);
    then();
  };
  const silence = setTimeout(done, SILENCE_MS);
  const most = setTimeout(done, MOST_MS);
  const again = (): void => void silence.refresh();
  stream.on('data', again).once('end', done);
}

function endAlike(code: number | null, signal: NodeJS.Signals | null): void {
  if (!signal) process.exit(code ?? 0);
  process.removeAllListeners(signal);
  // Between the sending of a signal and its arrival something must keep this process.
  setTimeout(() => undefined, 2000);
  process.kill(process.pid, signal);
}
