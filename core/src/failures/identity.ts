import { readException, type ExceptionPart, type ExceptionText } from './exception-text';
import { functionName, lastName, plainFile, plainFunction } from './function-name';
import { messageTemplate } from './message-template';
import { quickTelling } from './quick-telling';
import { repeatsIn } from './recursion';
import type { StackFrame } from './stack-frame';

/** What makes failures one: all of it is equal for them. */
export interface FailureIdentity {
  /** Type of the exception as it was recorded; '' where a request failed without one. */
  type: string;
  /** Its message with the values replaced; of a failure without a type what stands for it, such as the status. */
  message: string;
  /** Type of what caused it all, where it is another; else ''. */
  rootType: string;
  /** Innermost function of the program's own code, without what changes from build to build; '' without a stack. */
  function: string;
  /** The end of its file's path. */
  file: string;
  /** Service and endpoint, or what was called, where no frame of the program's own tells where it failed; else ''. */
  endpoint: string;
}

/** Of what tells nothing of itself. */
export const NO_IDENTITY: FailureIdentity = {
  type: '',
  message: '',
  rootType: '',
  function: '',
  file: '',
  endpoint: ''
};

/** The original place of a frame of built code; the frame itself where it is not known. */
export type MapFrame = (frame: StackFrame) => StackFrame;

/** What an exception event or an error log record says (OpenTelemetry semantic conventions, exceptions). */
export interface RecordedException {
  type: string;
  message: string;
  /** '' where none was recorded. */
  stack: string;
}

/**
 * What tells an exception from others: its type, its message with the values replaced, and the innermost frame of the program's own code, by function and file: lines
 * move with every change. Of a chain the frame is that of the cause it all comes from.
 */
export function identityOf(
  recorded: RecordedException,
  mapFrame: MapFrame = (frame) => frame
): FailureIdentity {
  const quick = isStackOverflow(recorded.type, recorded.message)
    ? null
    : quickTelling(recorded.stack, recorded.type);
  if (!quick) return identityOfRead(readException(recorded.stack, recorded), mapFrame);
  return identityFrom(recorded.type, recorded.message, quick.rootType, quick.frame, mapFrame);
}

/** The same of an exception that was read already. */
export function identityOfRead(read: ExceptionText, mapFrame: MapFrame = (frame) => frame): FailureIdentity {
  const [first] = read.parts;
  const root = read.parts[read.root];
  return identityFrom(
    first.type,
    first.message,
    read.root > 0 ? root.type : '',
    tellingFrame(read),
    mapFrame
  );
}

function identityFrom(
  type: string,
  message: string,
  rootType: string,
  frame: StackFrame | null,
  mapFrame: MapFrame
): FailureIdentity {
  return {
    ...NO_IDENTITY,
    type,
    message: messageTemplate(message),
    rootType: rootType === type ? '' : rootType,
    ...(frame && placeOf(mapFrame(frame)))
  };
}

type Place = Pick<FailureIdentity, 'function' | 'file'>;
/** Frames that were read before are the same objects. */
const places = new WeakMap<StackFrame, Place>();
function placeOf(frame: StackFrame): Place {
  let place = places.get(frame);
  if (!place) places.set(frame, (place = { function: functionName(frame), file: plainFile(frame.file) }));
  return place;
}

/** Equal for equal identities. */
export const identityKey = ({
  type,
  message,
  rootType,
  function: name,
  file,
  endpoint
}: FailureIdentity): string => JSON.stringify([type, message, rootType, name, file, endpoint]);

/**
 * The frame that tells where an exception comes from: the innermost of the program's own code, of the cause it all comes from; where that has none, of what it caused. A recursion ends
 * anywhere in its cycle: there the first of its functions by name stands for all. null where no frame is the program's own.
 */
export function tellingFrame({ parts, root }: ExceptionText): StackFrame | null {
  for (let i = root; i >= 0; i--) {
    const frame = innermostOwn(parts[i]);
    if (frame) return frame;
  }
  return null;
}

function innermostOwn({ type, message, frames }: ExceptionPart): StackFrame | null {
  const own = thrownBy(frames).filter(({ application }, i, all) => application && !isBuiltIn(all, i));
  // Some runtimes count the making of the exception as a call.
  const made = lastName(type);
  const [frame] = own.filter(({ function: name }) => lastName(name) !== made);
  if (!frame || !isStackOverflow(type, message)) return frame ?? own[0] ?? null;
  const [cycle] = repeatsIn(own);
  const repeated = cycle ? own.slice(cycle.from, cycle.from + cycle.length) : [frame];
  return repeated.toSorted((a, b) => (plainFunction(a.function) < plainFunction(b.function) ? -1 : 1))[0];
}

/** Ruby tells of a built-in method at the very place that calls it. */
function isBuiltIn(frames: readonly StackFrame[], at: number): boolean {
  const [frame, caller] = [frames[at], frames[at + 1]];
  return (
    frame.file.endsWith('.rb') &&
    caller?.file === frame.file &&
    caller.line === frame.line &&
    caller.function !== frame.function
  );
}

/** Go tells of a panic from the function that recovers: what threw stands below the runtime's own call. */
const thrownBy = (frames: readonly StackFrame[]): readonly StackFrame[] =>
  frames.slice(
    frames.findLastIndex(({ function: name, file }) => name === 'panic' && file.endsWith('.go')) + 1
  );

/** What runtimes say where a stack is full: V8 and Firefox, the JVM, Python, Ruby, .NET, Go, PHP. */
export const isStackOverflow = (type: string, message: string): boolean =>
  /StackOverflow|RecursionError|SystemStackError|InsufficientExecutionStack/.test(type) ||
  /maximum call stack|too much recursion|stack overflow|stack level too deep|goroutine stack exceeds/i.test(
    message
  );

/** A group of failures by its name: its type without the packages before it, and its message. */
export function failureTitle({ type, message, endpoint }: FailureIdentity): string {
  const short = shortType(type);
  const said = [short, message].filter(Boolean).join(': ');
  return said || endpoint || 'A failure without words';
}

/** The last part of a type's name. */
export const shortType = (type: string): string =>
  type
    .split(/[.\\]|::/)
    .at(-1)!
    .replace(/^.*\$/, '');
