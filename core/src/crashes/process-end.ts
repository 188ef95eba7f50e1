import * as v from 'valibot';
import { EvidenceError } from '../formats/evidence-error';
import { jsonDocument } from '../formats/parse-json';
import { NO_CRASH, type Crash } from './crash';
import { crashOf, endingIn, lastLinesOf } from './crash-text';
import { readJvmFatal } from './jvm-fatal';
import { nodeCrash } from './node-crash';

/** So much of the standard error is handed over, characters: the stack of a recursion fits. */
export const MAX_STDERR = 256 * 1024;

const milliseconds = v.pipe(v.number(), v.finite(), v.minValue(0));

/** What `tromix run` saw of the end of a process, as it writes it down. */
export const ProcessEnd = v.object({
  /** Version of this shape. */
  processEnd: v.literal(1),
  program: v.pipe(v.string(), v.maxLength(2000)),
  /** As `Node.js v20.20.2`; '' where it is not known. */
  runtime: v.optional(v.pipe(v.string(), v.maxLength(200)), ''),
  pid: v.pipe(v.number(), v.integer(), v.minValue(0)),
  startedAtMs: milliseconds,
  endedAtMs: milliseconds,
  exitCode: v.nullable(v.pipe(v.number(), v.integer())),
  signal: v.pipe(v.string(), v.regex(/^(?:SIG[A-Z0-9]+)?$/)),
  /** The end of its standard error; '' where that went to a terminal. */
  stderr: v.pipe(v.string(), v.maxLength(MAX_STDERR)),
  /** What was thrown as the runtime prints it, with its causes. */
  thrown: v.optional(v.pipe(v.string(), v.maxLength(MAX_STDERR)), ''),
  /** A diagnostic report of Node.js, or the JVM’s fatal error log, that the process wrote as it ended. */
  nodeReport: v.optional(v.unknown()),
  jvmFatalLog: v.optional(v.string())
});
export type ProcessEnd = v.InferOutput<typeof ProcessEnd>;

/** Reads what `tromix run` saw of the end of a process. @throws EvidenceError `not-json`, `not-a-crash`. */
export function readProcessEnd(content: string): Crash {
  const read = v.safeParse(ProcessEnd, jsonDocument(content));
  if (!read.success)
    throw new EvidenceError(
      'not-a-crash',
      `Expected the end of a process as tromix run writes it: ${read.issues[0].message}.`
    );
  const end = read.output;
  const told = toldBy(end);
  return {
    ...told,
    cause: told.exception ? told.cause : end.signal ? 'signal' : 'exit',
    runtime: told.runtime || end.runtime,
    signal: end.signal || told.signal,
    exitCode: end.exitCode,
    pid: end.pid,
    atMs: end.endedAtMs,
    uptimeMs: Math.max(0, end.endedAtMs - end.startedAtMs),
    lastLines: lastLinesOf(end.stderr),
    program: end.program
  };
}

/** By the report of the runtime, where it wrote one, else by its last lines. */
function toldBy({ nodeReport, jvmFatalLog, stderr, thrown }: ProcessEnd): Crash {
  try {
    if (nodeReport !== undefined) {
      const crash = nodeCrash(nodeReport);
      // With what caused it, which the report leaves out.
      return thrown && crash.exception
        ? { ...crash, exception: { ...crash.exception, stack: thrown } }
        : crash;
    }
    if (jvmFatalLog !== undefined) return readJvmFatal(jvmFatalLog);
  } catch (cause) {
    if (!(cause instanceof EvidenceError)) throw cause;
  }
  const ending = endingIn(stderr);
  return ending ? { ...NO_CRASH, ...crashOf(ending) } : NO_CRASH;
}
