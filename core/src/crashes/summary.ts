import * as v from 'valibot';
import { Count, SummaryWarnings } from '../evidence/summary-parts';
import { identityOf, NO_IDENTITY, type FailureIdentity } from '../failures/identity';
import type { Warning } from '../formats/evidence-error';
import { cutText } from '../text/well-formed';
import type { Crash } from './crash';
import { signalMeaning } from './signals';

/** What a list of evidence says of a crash. */
export const CrashSummary = v.object({
  cause: v.picklist(['memory', 'recursion', 'deadlock', 'exception', 'signal', 'runtime', 'exit']),
  /** Of the exception, its message with the values replaced, and the innermost function of the program's own code. */
  type: v.string(),
  message: v.string(),
  function: v.string(),
  runtime: v.string(),
  signal: v.string(),
  exitCode: v.nullable(v.number()),
  /** Milliseconds; null where it is not told. */
  uptimeMs: v.nullable(Count),
  pid: Count,
  warnings: SummaryWarnings
});
export type CrashSummary = v.InferOutput<typeof CrashSummary>;

const MAX_TEXT = 500;

export function summariseCrash(crash: Crash, warnings: Warning[]): CrashSummary {
  const { type, message, function: name } = crashIdentity(crash);
  return {
    cause: crash.cause,
    type,
    message: cutText(message, MAX_TEXT),
    function: name,
    runtime: crash.runtime,
    signal: crash.signal,
    exitCode: crash.exitCode,
    uptimeMs: crash.uptimeMs,
    pid: crash.pid,
    warnings
  };
}

/** What tells the failure that a crash is from others: what was thrown; else how the process ended, and of which service it was. */
export function crashIdentity({ exception, signal, exitCode }: Crash, service = ''): FailureIdentity {
  const told = exception ? identityOf(exception) : NO_IDENTITY;
  if (told.function || told.file) return told;
  return {
    ...told,
    message: told.message || (told.type ? '' : endWords(signal, exitCode)),
    endpoint: `${service}: the process ended`
  };
}

/** How a process ended that says nothing of itself. */
export const endWords = (signal: string, exitCode: number | null): string =>
  signal
    ? `ended by ${signal}: ${signalMeaning(signal)}`
    : exitCode === null
      ? 'ended'
      : `ended with exit code ${exitCode}`;
