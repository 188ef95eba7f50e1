import { readException } from '../failures/exception-text';
import { tellingFrame } from '../failures/identity';
import { lastName } from '../failures/function-name';
import { repeatsIn, type Repeat } from '../failures/recursion';
import type { StackFrame } from '../failures/stack-frame';
import { formatBytes, formatCount } from '../text/format';
import type { Crash } from './crash';
import { exitMeaning, signalMeaning } from './signals';

/** What ended a process, in one sentence that claims no more than its files tell. */
export function crashSentence(crash: Crash): string {
  const { cause, exception, signal, exitCode, runtime } = crash;
  const where = placeOf(crash);
  switch (cause) {
    case 'memory': {
      const figures = memoryWords(crash);
      return `It ran out of memory${figures ? `: ${figures}` : ''}${where ? `, in ${where}` : ''}.`;
    }
    case 'recursion': {
      const repeated = recursionOf(crash);
      return repeated.length > 0
        ? `Its stack was full: ${repeated.length === 1 ? `${repeated[0]} calls itself` : `${repeated.join(' → ')} → ${repeated[0]} call each other`} without end.`
        : `Its stack was full${where ? `, in ${where}` : ''}.`;
    }
    case 'deadlock':
      return `Every thread waited for another${where ? `; the first one in ${where}` : ''}.`;
    case 'exception':
      return `Nobody caught ${lastName(exception!.type) || 'what was thrown'}${exception!.message ? `: ${exception!.message.split('\n')[0]}` : ''}${where ? `, thrown in ${where}` : ''}.`;
    case 'runtime':
      return `The runtime gave up: ${exception?.message || 'it does not say why'}${where ? `, in ${where}` : ''}.`;
    case 'signal':
      return `${signal} ended it: ${signalMeaning(signal) || 'what that means is not known here'}${where ? `, in ${where}` : ''}.`;
    case 'exit': {
      const meaning = exitCode === null ? '' : exitMeaning(exitCode, runtime);
      return `It ended${exitCode === null ? '' : ` with exit code ${exitCode}`}${meaning ? `, which means ${meaning}` : ''}; nothing that it wrote tells why.`;
    }
  }
}

/** The innermost function of the program's own code; '' where no frame tells. */
function placeOf({ exception }: Crash): string {
  if (!exception?.stack) return '';
  const frame = tellingFrame(readException(exception.stack, exception));
  if (!frame) return '';
  const name = frame.function || '(anonymous)';
  return frame.file && frame.line > 0 ? `${name} (${frame.file}:${frame.line})` : name;
}

function memoryWords({ memory, limits }: Crash): string {
  const used = memory.find(({ name }) => name === 'heap in use')?.bytes;
  const most = limits.find(({ name }) => name === 'heap')?.value;
  if (used === undefined) return '';
  return `its heap held ${formatBytes(used)}${most ? ` of at most ${formatBytes(most)}` : ''}`;
}

const framesOf = ({ exception }: Crash): StackFrame[] => {
  if (!exception?.stack) return [];
  const { parts, root } = readException(exception.stack, exception);
  return parts[root].frames;
};

/** The functions of the part of its stack that repeats, outermost first; none where nothing does. */
export function recursionOf(crash: Crash): string[] {
  const frames = framesOf(crash).filter(({ application }) => application);
  const [repeat] = repeatsIn(frames);
  // A stack that is cut short shows one function over and over, or the runtime says that lines were left out.
  const cycle = repeat ? frames.slice(repeat.from, repeat.from + repeat.length) : frames.slice(0, 1);
  return [...new Set(cycle.toReversed().map(({ function: name }) => name || '(anonymous)'))];
}

const MAX_LINES = 30;

/** The stack as lines, innermost first; a part that repeats stands once. */
export function stackLines(crash: Crash): string[] {
  const frames = framesOf(crash);
  const repeats = new Map<number, Repeat>(repeatsIn(frames).map((repeat) => [repeat.from, repeat]));
  const lines: string[] = [];
  for (let at = 0; at < frames.length && lines.length < MAX_LINES;) {
    const repeat = repeats.get(at);
    const length = repeat?.length ?? 1;
    for (const { function: name, file, line } of frames.slice(at, at + length))
      lines.push(`${name || '(anonymous)'}${file ? ` (${file}${line > 0 ? `:${line}` : ''})` : ''}`);
    if (repeat) lines.push(`… ${formatCount(repeat.times)} times`);
    at += repeat ? repeat.length * repeat.times : 1;
  }
  return lines;
}
