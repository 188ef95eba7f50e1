import fs from 'node:fs';
import { syncBuiltinESMExports } from 'node:module';
import { context, SpanKind, trace, type Attributes, type Context, type Span } from '@opentelemetry/api';

/** A call becomes a span from here on; shorter ones are only counted. */
const SPAN_FROM_MS = 1;
/** Attributes of the span in which files are used: how many calls there were, and how long they took together. */
const CALLS = 'tromix.file.calls';
const TIME = 'tromix.file.duration';

/** What is watched: in each of its three forms (with a callback, synchronous, with a promise) the first argument is a path. */
const OPERATIONS = [
  'access',
  'appendFile',
  'copyFile',
  'lstat',
  'mkdir',
  'open',
  'readFile',
  'readdir',
  'realpath',
  'rename',
  'rm',
  'stat',
  'unlink',
  'writeFile'
];

/** Of these the second argument is written. */
const WRITES = new Set(['appendFile', 'writeFile']);

type Anything = (...args: unknown[]) => unknown;
/** Says what line of the program is running, as attributes. */
export type LineNow = () => Attributes;

/** A call under way: in which span, since when, and where it was made. */
interface Call {
  within: Context;
  parent: Span;
  begunMs: number;
  line: Attributes;
}

/** Watches the file system: every call within a span is counted there, and one that takes longer than a millisecond is a span of its own. */
export class Files {
  readonly #tracer = trace.getTracer('tromix.files');
  readonly #counts = new WeakMap<Span, { calls: number; ms: number }>();
  readonly #lineNow: LineNow;

  constructor(lineNow: LineNow) {
    this.#lineNow = lineNow;
  }

  /** Puts itself around the functions of `node:fs`. */
  watch(): void {
    const callbacks = fs as unknown as Record<string, Anything>;
    const promises = fs.promises as unknown as Record<string, Anything>;
    for (const operation of OPERATIONS) {
      callbacks[operation] = this.#withCallback(operation, callbacks[operation]);
      callbacks[`${operation}Sync`] = this.#synchronous(operation, callbacks[`${operation}Sync`]);
      promises[operation] = this.#withPromise(operation, promises[operation]);
    }
    // Named imports of ES modules see the new functions too.
    syncBuiltinESMExports();
  }

  /** null outside of a span that is recorded: nobody would see it. */
  #begin(line: boolean): Call | null {
    const within = context.active();
    const parent = trace.getSpan(within);
    if (!parent?.isRecording()) return null;
    return { within, parent, begunMs: performance.now(), line: line ? this.#lineNow() : {} };
  }

  /** @param read what a reading call gave */
  #end(
    { within, parent, begunMs, line }: Call,
    operation: string,
    args: unknown[],
    error: unknown,
    read?: unknown
  ): void {
    const ms = performance.now() - begunMs;
    const count = this.#counts.get(parent) ?? { calls: 0, ms: 0 };
    this.#counts.set(parent, count);
    count.calls++;
    count.ms += ms;
    parent.setAttributes({ [CALLS]: count.calls, [TIME]: Math.round(count.ms * 1e6) });
    if (ms < SPAN_FROM_MS) return;
    const startTime = performance.timeOrigin + begunMs;
    const attributes = {
      'file.operation': operation,
      'file.path': pathOf(args[0]),
      ...bytesOf(operation, args, read),
      ...line
    };
    const span = this.#tracer.startSpan(
      `file ${operation}`,
      { startTime, kind: SpanKind.INTERNAL, attributes },
      within
    );
    if (error instanceof Error) span.recordException(error);
    span.end(startTime + ms);
  }

  #withCallback(operation: string, original: Anything): Anything {
    const begin = (): Call | null => this.#begin(true);
    const end = this.#end.bind(this);
    return named(original, function (this: unknown, ...args) {
      const call = begin();
      const done = args.at(-1);
      if (call && typeof done === 'function') {
        args[args.length - 1] = function (this: unknown, error: unknown, ...rest: unknown[]): unknown {
          end(call, operation, args, error, rest[0]);
          return (done as Anything).call(this, error, ...rest);
        };
      }
      return original.apply(this, args);
    });
  }

  #synchronous(operation: string, original: Anything): Anything {
    const begin = (): Call | null => this.#begin(false);
    const lineNow = this.#lineNow;
    const end = this.#end.bind(this);
    return named(original, function (this: unknown, ...args) {
      const call = begin();
      if (!call) return original.apply(this, args);
      let failed: unknown;
      let result: unknown;
      try {
        return (result = original.apply(this, args));
      } catch (cause) {
        failed = cause;
        throw cause;
      } finally {
        // The stack is still that of the call: it is looked at only for one that took long.
        if (performance.now() - call.begunMs >= SPAN_FROM_MS) call.line = lineNow();
        end(call, operation, args, failed, result);
      }
    });
  }

  #withPromise(operation: string, original: Anything): Anything {
    const begin = (): Call | null => this.#begin(true);
    const end = this.#end.bind(this);
    return named(original, function (this: unknown, ...args) {
      const call = begin();
      const result = original.apply(this, args) as Promise<unknown>;
      if (call)
        void result.then(
          (value) => end(call, operation, args, undefined, value),
          (cause: unknown) => end(call, operation, args, cause)
        );
      return result;
    });
  }
}

/** How many bytes a whole file was read or written with, where the call says. */
function bytesOf(operation: string, args: readonly unknown[], read: unknown): Attributes {
  const bytes = (data: unknown): number | null => {
    if (typeof data === 'string') return Buffer.byteLength(data);
    return ArrayBuffer.isView(data) ? data.byteLength : null;
  };
  const name = operation === 'readFile' ? 'file.bytes_read' : 'file.bytes_written';
  const size = operation === 'readFile' ? bytes(read) : WRITES.has(operation) ? bytes(args[1]) : null;
  return size === null ? {} : { [name]: size };
}

/** A path, whatever form it has; of a file descriptor only that it is one. */
function pathOf(file: unknown): string {
  if (typeof file === 'string') return file;
  if (file instanceof URL) return file.pathname;
  return Buffer.isBuffer(file) ? file.toString() : 'an open file';
}

/** A function in place of another, with its name, length and properties: `fs.realpath.native` is one. */
const named = (original: Anything, replacement: Anything): Anything =>
  Object.defineProperties(replacement, Object.getOwnPropertyDescriptors(original));
