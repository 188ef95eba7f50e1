import type { RecordedException } from '../failures/identity';
import { readException } from '../failures/exception-text';
import { EvidenceError } from '../formats/evidence-error';
import { causeOf } from './cause';
import { NO_CRASH, type Crash } from './crash';

/** What a runtime writes to the standard error as it ends. */
interface Ending {
  runtime: string;
  exception: RecordedException;
  thread: string;
}

/** How a runtime begins to tell of its end, and what it says then. */
interface Teller {
  begins: RegExp;
  read: (text: string) => Ending | null;
}

/** So much of the end of a text is looked at: a stack of ten thousand frames fits. */
const MAX_TEXT = 2_000_000;

const TELLERS: readonly Teller[] = [
  { begins: /^(?:panic: |fatal error: )/gm, read: readGo },
  { begins: /^Fatal Python error: /gm, read: readPythonFault },
  { begins: /^Traceback \(most recent call last\):$/gm, read: readPython },
  { begins: /^(?:Exception in thread "|Terminating due to java\.lang\.)/gm, read: readJvm },
  { begins: /^FATAL ERROR: /gm, read: readNodeFatal },
  {
    begins: /^(?:(?:node:internal\/|file:\/\/|\/|[A-Z]:\\)[^\n]*:\d+\n[^\n]*\n *\^+\n|Uncaught:?$)/gm,
    read: readNode
  },
  { begins: /^(?:PHP )?Fatal error: +/gm, read: readPhp },
  { begins: /^\S[^"\n]*?:\d+:in [`'][^\n]*?'[^\n]*? \([A-Z][\w:]*\)$/gm, read: readRuby }
];

/** The last thing a text tells of that ends a process; null where it tells of none. */
export function endingIn(text: string): Ending | null {
  const end = text.slice(-MAX_TEXT).replaceAll('\r\n', '\n');
  const told = TELLERS.flatMap(({ begins, read }) => {
    const places = [...end.matchAll(begins)].map(({ index }) => index);
    return places.length > 0 ? [{ at: places.at(-1)!, places, read }] : [];
  }).sort((a, b) => b.at - a.at);
  for (const { places, read } of told) {
    const found = read(end.slice(startOf(places, end)));
    if (found) return found;
  }
  return null;
}

/** What stands between the parts of a chain: Python tells of the causes first and joins them by such words, Ruby tells of them after the stack. */
const CHAINED =
  /(?:\n\n(?:The above exception was the direct cause|During handling of the above exception)[^\n]*\n\n|^[^\n]*\n(?:\t(?:from |[ .])[^\n]*\n)*)$/;

/** Where the chain begins whose last part the text tells of last. */
function startOf(places: readonly number[], text: string): number {
  let start = places.length - 1;
  while (start > 0 && CHAINED.test(text.slice(places[start - 1], places[start]))) start--;
  return places[start];
}

/** Reads the standard error of a program as it ended. @throws EvidenceError `not-a-crash`. */
export function readCrashText(text: string): Crash {
  const found = endingIn(text);
  if (!found)
    throw new EvidenceError(
      'not-a-crash',
      'Expected what a runtime writes as it ends (an exception that nobody caught, or a fatal error), but it is not there.'
    );
  return { ...NO_CRASH, ...crashOf(found), lastLines: lastLinesOf(text) };
}

export const crashOf = ({
  exception,
  runtime,
  thread
}: Ending): Pick<Crash, 'cause' | 'exception' | 'runtime' | 'thread'> => ({
  cause:
    causeOf(exception) ??
    (/^(?:fatal error|Fatal Python error|FATAL ERROR)$/.test(exception.type) ? 'runtime' : 'exception'),
  exception,
  runtime,
  thread
});

/** Lines of the standard error that are kept, and characters of each. */
export const LAST_LINES = 200;
const MAX_LINE = 2000;
export const lastLinesOf = (text: string): string[] =>
  text
    .trimEnd()
    .split(/\r?\n/)
    .slice(-LAST_LINES)
    .map((line) => line.slice(0, MAX_LINE));

function readGo(text: string): Ending | null {
  const head = /^(panic|fatal error): ([\s\S]*?)(?=\n\n|\n\[signal |\ngoroutine \d|$)/m.exec(text);
  if (!head) return null;
  const [, kind, said] = head;
  const stack =
    /^goroutine \d+ \[.*?\]:\n[\s\S]*?(?=\n\n|$(?![\s\S]))/m.exec(text.slice(head.index))?.[0] ?? '';
  const message = said.replace(/ \[recovered\]/g, '');
  const goroutine = /^goroutine (\d+) /.exec(stack)?.[1];
  return {
    runtime: 'Go',
    exception: { type: kind, message, stack: `${kind}: ${message}\n\n${stack}` },
    thread: goroutine ? `goroutine ${goroutine}` : ''
  };
}

function readPython(text: string): Ending {
  const { parts } = readException(text);
  const [{ type, message }] = parts;
  return { runtime: 'Python', exception: { type, message, stack: text.trimEnd() }, thread: '' };
}

/** A fault names the functions innermost first, in a form of its own. */
function readPythonFault(text: string): Ending {
  const message = /^Fatal Python error: ([^\n]*)/.exec(text)?.[1] ?? '';
  const current = /^Current thread [^\n]*\n((?: {2}File [^\n]*\n?)*)/m.exec(text)?.[1] ?? '';
  const frames = current
    .trimEnd()
    .split('\n')
    .filter(Boolean)
    .map((line) => line.replace(/ in (\S+)$/, ', in $1'))
    .reverse();
  const type = 'Fatal Python error';
  return {
    runtime: 'Python',
    exception: {
      type,
      message,
      stack:
        frames.length > 0
          ? ['Traceback (most recent call last):', ...frames, `${type.replaceAll(' ', '')}: ${message}`].join(
              '\n'
            )
          : ''
    },
    thread: ''
  };
}

function readJvm(text: string): Ending {
  const block = /^[^\n]*(?:\n(?:\tat |\t\.\.\. |Caused by: |\tSuppressed: |\t\t)[^\n]*)*/.exec(text)![0];
  const ended = /^Terminating due to (java\.lang\.\w+): ([^\n]*)/.exec(block);
  const { parts } = readException(block);
  return {
    runtime: 'JVM',
    exception: ended
      ? { type: ended[1], message: ended[2], stack: '' }
      : { type: parts[0].type, message: parts[0].message, stack: block },
    thread: /^Exception in thread "(.*?)"/.exec(block)?.[1] ?? ''
  };
}

const nodeRuntime = (text: string): string =>
  `Node.js ${/^Node\.js (v[\d.]+)/m.exec(text)?.[1] ?? ''}`.trim();

function readNodeFatal(text: string): Ending {
  const message = /^FATAL ERROR: ([^\n]*)/.exec(text)![1];
  return {
    runtime: nodeRuntime(text),
    exception: { type: 'FATAL ERROR', message, stack: '' },
    thread: ''
  };
}

function readNode(text: string): Ending | null {
  const said = text.replace(/^[^\n]*:\d+\n[^\n]*\n *\^+\n/, '').trimStart();
  const block = said.split(/\n\nNode\.js v/)[0].trimEnd();
  if (block === '') return null;
  const { parts } = readException(block);
  return {
    runtime: nodeRuntime(text),
    exception: { type: parts[0].type, message: parts[0].message, stack: block },
    thread: ''
  };
}

function readPhp(text: string): Ending {
  const said = text.replace(/^(?:PHP )?Fatal error: +(?:Uncaught )?/, '').trimEnd();
  const { parts } = readException(said);
  // Without a stack the place stands in the message.
  const bare =
    parts[0].type === '' ? said.split('\n')[0].replace(/ in \S+ on line \d+$/, '') : parts[0].message;
  return { runtime: 'PHP', exception: { type: parts[0].type, message: bare, stack: said }, thread: '' };
}

function readRuby(text: string): Ending {
  const { parts } = readException(text.trimEnd());
  return {
    runtime: 'Ruby',
    exception: { type: parts[0].type, message: parts[0].message, stack: text.trimEnd() },
    thread: ''
  };
}
