import { readException, type ExceptionPart, type ExceptionText } from './exception-text';
import { messageTemplate } from './message-template';
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
  /** Service and endpoint, where neither type nor stack tells what failed; else ''. */
  endpoint: string;
}

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
  const read = readException(recorded.stack, recorded);
  return identityOfRead(read, mapFrame);
}

/** The same of an exception that was read already. */
export function identityOfRead(read: ExceptionText, mapFrame: MapFrame = (frame) => frame): FailureIdentity {
  const [first] = read.parts;
  const root = read.parts[read.root];
  const frame = tellingFrame(read);
  const own = frame && mapFrame(frame);
  return {
    type: first.type,
    message: messageTemplate(first.message),
    rootType: root.type === first.type ? '' : root.type,
    function: own ? functionName(own) : '',
    file: own ? plainFile(own.file) : '',
    endpoint: ''
  };
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
  const own = thrownBy(frames).filter(({ application }) => application);
  // Some runtimes count the making of the exception as a call.
  const made = lastName(type);
  const [frame] = own.filter(({ function: name }) => lastName(name) !== made);
  if (!frame || !isStackOverflow(type, message)) return frame ?? own[0] ?? null;
  const [cycle] = repeatsIn(own);
  const repeated = cycle ? own.slice(cycle.from, cycle.from + cycle.length) : [frame];
  return repeated.toSorted((a, b) => (plainFunction(a.function) < plainFunction(b.function) ? -1 : 1))[0];
}
const lastName = (name: string): string => name.split(/[.:$\\\s>]/).at(-1)!;

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

const SCRIPT = /\.(?:[cm]?[jt]sx?|vue|svelte)$/i;
/** Engines of JavaScript name the object a method was called on, which need not be of the class that has it, and functions without a name in ways of their own. */
function functionName({ function: name, file }: StackFrame): string {
  const plain = plainFunction(name);
  if (!SCRIPT.test(plainFile(file))) return plain;
  return /<$|^<anonymous>$/.test(plain)
    ? ''
    : plain.replace(/^.*[./](?=[^./]+$)/, '').replace(/^<anonymous>$/, '');
}

/** A function's name without what compilers and runtimes number anew with each build. */
export const plainFunction = (name: string): string =>
  name
    .replace(/^(?:async |new |get |set )+/, '')
    // PHP: its separators as the others'.
    .replace(/\\|->|::/g, '.')
    .replace(/ \[as .*\]$/, '')
    // JVM: lambdas, proxies, generated accessors.
    .replace(/lambda\$(\w+)\$\d+/g, 'lambda in $1')
    .replace(/\$\$(?:Lambda|FastClass|Enhancer|SpringCGLIB|EnhancerBy\w+)[\w$/.]*?(?=\.\w+$|$)/g, '')
    .replace(/\$\d+(?=\.|$)/g, '')
    // Go: closures, generics; the receiver stays.
    .replace(/\.func\d+(?:\.\d+)*/g, '.func')
    .replace(/\[\.{3}\]/g, '')
    // Ruby: levels of blocks.
    .replace(/^block (?:\(\d+ levels?\) )?in /, 'block in ')
    .replace(/^rescue in |^ensure in /, '')
    // .NET: state machines of async methods, display classes of closures.
    .replace(/\+?<(\w*)>[db]__\d+(?:_\d+)?(?:\.MoveNext)?/g, '.$1')
    .replace(/[+.]<>c(?:__DisplayClass\d+_\d+)?/g, '')
    .slice(0, 200);

/** The end of a file's path, which is the same wherever the program lies, without the hash a build gave it. */
export function plainFile(file: string): string {
  const path = file.replace(/[?#].*$/, '').replace(/^(?:https?:\/\/[^/]*|[a-z-]+:\/\/\/?)/i, '');
  const parts = path.split(/[\\/]/).filter(Boolean);
  return parts
    .slice(-2)
    .join('/')
    .replace(/([.-])(?=[\w-]*\d)[0-9a-zA-Z_-]{8,32}(?=\.\w+$)/, '')
    .slice(0, 200);
}
