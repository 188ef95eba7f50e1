import { lastName } from './function-name';
import { frameOf, type StackFrame } from './stack-frame';

/** What tells an exception from others, as far as its stack says. */
export interface Telling {
  frame: StackFrame;
  /** Type of the cause it all comes from; '' where the exception itself is all there is. */
  rootType: string;
}

/** What makes a stack more than one exception after another, by the way its runtime writes it: such a one is read whole. */
const BESIDES = ['Suppressed: ', ' ---> ', '[cause]: ', '[errors]: ', '--- End of inner'];
/** And what belongs to runtimes whose frames stand in other forms than `at place`. */
const OTHERS = [...BESIDES, 'goroutine ', '.go:', 'Stack trace:', ':in `', ":in '"];
const AT = /^\s+at /;
const CAUSE = '\nCaused by: ';
const PYTHON = 'Traceback (most recent call last):';

/** Lines repeat from one stack to the next; bounded, since they come from outside. */
const known = new Map<string, StackFrame | null>();
const MAX_KNOWN = 20_000;
const MAX_LINE = 300;

function knownFrame(line: string): StackFrame | null {
  let frame = known.get(line);
  if (frame === undefined) {
    frame = frameOf(line);
    if (known.size >= MAX_KNOWN) known.clear();
    if (line.length <= MAX_LINE) known.set(line, frame);
  }
  return frame;
}

/**
 * The telling frame of a stack (see `tellingFrame`) and the type of its root, without reading what does not take part in it: a stack has dozens of frames, and the first of the program's
 * own is enough. null where only reading it whole tells.
 * @param type of the exception, as it was recorded apart
 */
export function quickTelling(stack: string, type: string): Telling | null {
  if (type === '' || stack === '') return null;
  if (stack.startsWith(PYTHON)) return innermostOfPython(stack, type);
  const second = stack.slice(lineEnd(stack, 0), lineEnd(stack, 0) + 20);
  if ((AT.test(second) ? BESIDES : OTHERS).some((marker) => stack.includes(marker)) || stack.includes(PYTHON))
    return null;
  const cause = stack.lastIndexOf(CAUSE);
  const from = cause < 0 ? 0 : lineEnd(stack, cause + CAUSE.length);
  const head = cause < 0 ? '' : stack.slice(cause + CAUSE.length, from - 1);
  const rootType = cause < 0 ? '' : /^[A-Za-z_$][\w.$\\-]*(?=:|$)/.exec(head)?.[0];
  // A head of another form is read whole.
  if (rootType === undefined) return null;
  const frame = firstOwn(stack, from, lastName(rootType || type));
  return frame && { frame, rootType };
}

const lineEnd = (text: string, from: number): number => {
  const end = text.indexOf('\n', from);
  return end < 0 ? text.length : end + 1;
};

function firstOwn(stack: string, from: number, made: string): StackFrame | null {
  for (let at = from; at < stack.length;) {
    const next = lineEnd(stack, at);
    const frame = knownFrame(trimmedEnd(stack.slice(at, next)));
    if (frame?.application && lastName(frame.function) !== made) return frame;
    at = next;
  }
  return null;
}

const trimmedEnd = (line: string): string => line.replace(/\r?\n$/, '');

/** Python writes the innermost frame last. */
function innermostOfPython(stack: string, type: string): Telling | null {
  // A second traceback is one that it comes from.
  if (stack.includes('Traceback (', PYTHON.length)) return null;
  const made = lastName(type);
  for (let at = stack.lastIndexOf('\n  File "'); at >= 0; at = stack.lastIndexOf('\n  File "', at - 1)) {
    const frame = knownFrame(trimmedEnd(stack.slice(at + 1, lineEnd(stack, at + 1))));
    if (frame?.application && lastName(frame.function) !== made) return { frame, rootType: '' };
  }
  return null;
}
