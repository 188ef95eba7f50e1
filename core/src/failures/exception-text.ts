import { cutText } from '../text/well-formed';
import { frameOf, goNameOf, isApplication, type StackFrame } from './stack-frame';

/** How an exception of a chain came to be told of. */
export type Relation =
  | 'itself'
  /** What the one before says caused it. */
  | 'cause'
  /** What was being handled when the one before was thrown. */
  | 'while handling'
  /** What was thrown while resources were closed after the one before. */
  | 'suppressed'
  /** One of several that the one before stands for. */
  | 'one of several';

/** One exception of a chain. */
export interface ExceptionPart {
  /** '' where the text does not say. */
  type: string;
  message: string;
  relation: Relation;
  /** Innermost first, whatever order the text has. */
  frames: StackFrame[];
}

/** An exception as it was recorded: itself first, then what caused it, and so on. */
export interface ExceptionText {
  parts: ExceptionPart[];
  /** Place among the parts of the one that it all comes from: the last of its causes. */
  root: number;
  /** Lines and exceptions beyond what is read. */
  cut: number;
}

/** Far beyond what a runtime's own limit leaves of a recursion. */
const MAX_LINES = 12_000;
const MAX_PARTS = 50;
/** Longest line that is looked at, and message that is kept of a part. */
const MAX_MESSAGE = 10_000;

/**
 * Reads what an exception left as text (`exception.stacktrace` of the OpenTelemetry semantic conventions for exceptions, or the standard error of a program)
 * of Node.js, browsers, the JVM, Python, Go, .NET, Ruby or PHP, with its causes.
 * @param known type and message as they were recorded apart, where they were: they go before what the text says of the first
 */
export function readException(text: string, known: { type?: string; message?: string } = {}): ExceptionText {
  const lines = text.split(/\r?\n/, MAX_LINES + 1);
  const cut = lines.length > MAX_LINES ? 1 : 0;
  if (cut) lines.length = MAX_LINES;
  for (let i = 0; i < lines.length; i++) lines[i] = cutText(lines[i], MAX_MESSAGE);
  const read = PYTHON.test(text)
    ? pythonParts(lines)
    : PHP.test(text)
      ? phpParts(lines)
      : lineParts(lines, GO.test(text));
  const parts = read.slice(0, MAX_PARTS);
  if (parts.length === 0) parts.push({ type: '', message: '', relation: 'itself', frames: [] });
  const [first] = parts;
  first.type = known.type || first.type;
  first.message = known.message || first.message;
  return { parts, root: rootOf(parts), cut: cut + read.length - parts.length };
}

/** The last of the causes that follow each other. What was only being handled, closed or thrown beside it caused nothing. */
function rootOf(parts: readonly ExceptionPart[]): number {
  let root = 0;
  for (let i = 1; i < parts.length; i++)
    if (parts[i].relation === 'cause') root = i;
    else if (parts[i].relation === 'while handling') break;
  return root;
}

const PHP = /^Stack trace:\n#0 /m;
const GO = /^goroutine \d+ \[|^\t\S+\.go:\d+/m;
const PYTHON = /^[ \t|+]*(?:Exception Group )?Traceback \(most recent call last\):/m;

/** A head as most runtimes write it: `Type: message`. */
function headOf(line: string): { type: string; message: string } {
  const text = line.replace(
    /^(?:Uncaught |Unhandled exception\.? |Exception in thread "[^"]*" |panic: )+/,
    ''
  );
  const found = /^([A-Za-z_$][\w.$:\\-]*?)(?:: ?(.*))?$/s.exec(text);
  const isType = found && (found[2] !== undefined || /^[\w.$:\\]+$/.test(text)) && !/\s/.test(found[1]);
  return isType ? { type: found[1], message: found[2] ?? '' } : { type: '', message: text };
}

/** What begins another exception of a chain, and how it belongs to the one before. */
const BEGINNINGS: { pattern: RegExp; relation: Relation }[] = [
  { pattern: /^\s*Caused by: (.*)$/, relation: 'cause' },
  { pattern: /^\s*Suppressed: (.*)$/, relation: 'suppressed' },
  { pattern: /^\s*\[cause\]: (.*)$/, relation: 'cause' },
  { pattern: /^\s*\[errors\]: \[$/, relation: 'one of several' },
  { pattern: /^\s*---> \(Inner Exception #\d+\) (.*?)(?:<---)?$/, relation: 'one of several' },
  { pattern: /^\s*---> (.*)$/, relation: 'cause' }
];
/** Ruby: place, message, and its class in brackets. */
const RUBY_HEAD = /^(\S[^"]*?:\d+:in [`'].*?'): (.*?)(?: \(([A-Z]\w*(?:::\w+)*)\))?$/;
/** .NET closes an inner exception: what follows are frames of the one around it. */
const END_OF_INNER = /^\s*--- End of inner exception stack trace ---$/;

/** Runtimes that write an exception, its frames, innermost first, and then its cause. */
function lineParts(lines: readonly string[], isGo: boolean): ExceptionPart[] {
  const parts: ExceptionPart[] = [];
  let part: ExceptionPart | null = null;
  const around: ExceptionPart[] = [];
  let goName = '';
  const begin = (relation: Relation, head: { type: string; message: string }): ExceptionPart => {
    part = { ...head, relation: parts.length === 0 ? 'itself' : relation, frames: [] };
    parts.push(part);
    return part;
  };
  for (const line of lines) {
    const ruby = RUBY_HEAD.exec(line);
    if (ruby) {
      const frame = frameOf(ruby[1]);
      const own = begin('cause', { type: ruby[3] ?? '', message: ruby[2] });
      if (frame) own.frames.push(frame);
      continue;
    }
    const inner =
      part &&
      BEGINNINGS.map(({ pattern, relation }) => ({ found: pattern.exec(line), relation })).find(
        ({ found }) => found
      );
    if (inner) {
      around.push(part!);
      begin(inner.relation, headOf(inner.found![1] ?? ''));
      continue;
    }
    if (END_OF_INNER.test(line)) {
      part = around.pop() ?? part;
      continue;
    }
    const frame = frameOf(line, goName);
    if (isGo) goName = goNameOf(line);
    if (frame) (part ?? begin('itself', { type: '', message: '' })).frames.push(frame);
    else if (!part && line.trim() !== '' && goName === '' && !/^goroutine \d+ \[/.test(line)) {
      // .NET may tell of the inner exception in the very same line.
      const [head, ...causes] = line.split(/ ---> (?=[A-Z])/);
      begin('itself', headOf(head));
      for (const cause of causes) {
        around.push(part!);
        begin('cause', headOf(cause));
      }
    } else if (part && isMessage(line) && goName === '') continueMessage(part, line);
  }
  return parts;
}

/** PHP's own form, as an exception is written that nobody caught: what caused it all comes first, and after `Next` what it caused. */
function phpParts(lines: readonly string[]): ExceptionPart[] {
  const parts: ExceptionPart[] = [];
  let head: string[] = [];
  let thrownAt = { file: '', line: 0 };
  for (const line of lines) {
    const frame = frameOf(line);
    if (line === 'Stack trace:') {
      const whole = head
        .join('\n')
        .replace(/^Next /, '')
        .replace(/^(?:PHP )?Fatal error: +/, '');
      const [, text, file, at] = /^([\s\S]*) in (\S.*?)[:(](\d+)\)?$/.exec(whole) ?? ['', whole, '', '0'];
      thrownAt = { file, line: Number(at) };
      parts.push({ ...headOf(text), relation: 'cause', frames: [] });
      head = [];
    } else if (frame && parts.length > 0) {
      // A function stands beside the place it was *called* at: the place in it stands a line further up.
      const { file, line: at } = thrownAt;
      parts
        .at(-1)!
        .frames.push({ ...frame, file, line: at, application: isApplication(file, frame.function) });
      thrownAt = frame;
    } else if (line.trim() !== '' && !/^#\d+ \{main\}|^ {2}thrown in /.test(line)) head.push(line);
  }
  if (parts.length > 0) parts.at(-1)!.relation = 'itself';
  return parts.reverse();
}

/** A message may have several lines; what is set in, numbered or bracketed is something else. */
const isMessage = (line: string): boolean =>
  line !== '' &&
  !/^\s*(?:\.\.\. \d+ (?:more|common frames omitted)|[\]}{[]|at |goroutine \d|\d+: \{main\}|#\d+ \{main\}|exit status)/.test(
    line
  );
function continueMessage(part: ExceptionPart, line: string): void {
  if (part.frames.length === 0 && part.message.length + line.length < MAX_MESSAGE)
    part.message = part.message === '' ? line.trim() : `${part.message}\n${line}`;
}

const PYTHON_LINE = /^[\s|]*(?:\+-)?[\s|+-]*/;
const CONNECTIVES: { pattern: RegExp; relation: Relation }[] = [
  { pattern: /^The above exception was the direct cause of the following exception:/, relation: 'cause' },
  {
    pattern: /^During handling of the above exception, another exception occurred:/,
    relation: 'while handling'
  }
];

/** Python writes what caused it all first, and of each exception its frames, outermost first, before its head. */
function pythonParts(lines: readonly string[]): ExceptionPart[] {
  const read: { part: ExceptionPart; depth: number; next: Relation | null }[] = [];
  let frames: StackFrame[] = [];
  let open: { part: ExceptionPart; depth: number; next: Relation | null } | null = null;
  let depth = 0;
  for (const line of lines) {
    const bare = line.replace(PYTHON_LINE, '');
    if (/^(?:Exception Group )?Traceback \(most recent call last\):/.test(bare)) {
      depth = /^[\s|+]*/.exec(line)![0].split('|').length - 1;
      frames = [];
      open = null;
      continue;
    }
    const connective = CONNECTIVES.find(({ pattern }) => pattern.test(bare));
    if (connective) {
      if (read.length > 0) read[read.length - 1].next = connective.relation;
      open = null;
      continue;
    }
    const frame = frameOf(line);
    if (frame) frames.push(frame);
    else if (!open && frames.length > 0 && isPythonHead(line, depth)) {
      const part: ExceptionPart = { ...headOf(bare), relation: 'itself', frames: frames.reverse() };
      open = { part, depth, next: null };
      read.push(open);
      frames = [];
    }
  }
  return pythonChain(read);
}

/** A head stands as far to the left as its traceback does; source lines are set in. */
const isPythonHead = (line: string, depth: number): boolean => {
  const rest = depth > 0 ? line.replace(/^[\s|]*\| ?/, '') : line;
  return /^[A-Za-z_][\w.]*(?::|$)/.test(rest);
};

/** Outermost first: of a chain the last is the exception itself. Members of a group follow the group. */
function pythonChain(read: { part: ExceptionPart; depth: number; next: Relation | null }[]): ExceptionPart[] {
  const least = Math.min(...read.map(({ depth }) => depth));
  const own = read.filter(({ depth }) => depth === least);
  const members = read
    .filter(({ depth }) => depth > least)
    .map(({ part }): ExceptionPart => ({ ...part, relation: 'one of several' }));
  const chain = own
    .reverse()
    .map(({ part, next }): ExceptionPart => ({ ...part, relation: next ?? 'itself' }));
  return [...chain, ...members];
}
