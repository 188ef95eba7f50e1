/** One frame of a stack as an exception carries it in text. */
export interface StackFrame {
  /** '' where the text does not name it. */
  function: string;
  file: string;
  line: number;
  /** 0 where unknown. */
  column: number;
  /** False for frames of the runtime and of dependencies. */
  application: boolean;
  /** The line as it was. */
  text: string;
}

interface Shape {
  pattern: RegExp;
  read: (found: RegExpExecArray) => Omit<StackFrame, 'application' | 'text'>;
}

const number = (text: string | undefined): number => (text ? Number(text) : 0);

/**
 * The forms stacks take in text. Sources: the documentation of V8's stack trace API; of java.lang.Throwable.printStackTrace;
 * of Python's traceback module; of Go's runtime/debug.Stack (two lines a frame); of .NET's Exception.StackTrace.
 */
const SHAPES: Shape[] = [
  {
    // at name (file:line:column), at file:line:column, at async name (…)
    pattern:
      /^\s*at (?:async )?(?:(.+?) \()?((?:node:|file:\/\/|[A-Za-z]:\\|webpack:\/\/)?[^():]*?):(\d+):(\d+)\)?$/,
    read: ([, name, file, line, column]) => ({
      function: name ?? '',
      file,
      line: number(line),
      column: number(column)
    })
  },
  {
    // at Name.Space.Method(args) in /path/File.cs:line 12
    pattern: /^\s*at (.+?)\([^)]*\) in (.+):line (\d+)$/,
    read: ([, name, file, line]) => ({ function: name, file, line: number(line), column: 0 })
  },
  {
    // at package.Class.method(File.java:12), with an optional module prefix
    pattern: /^\s*at (?:[\w.@-]*\/)?([\w.$<>]+)\(([^():]+)(?::(\d+))?\)/,
    read: ([, name, file, line]) => ({ function: name, file, line: number(line), column: 0 })
  },
  {
    // File "x.py", line 12, in name
    pattern: /^\s*File "([^"]+)", line (\d+)(?:, in (.+))?$/,
    read: ([, file, line, name]) => ({ function: name ?? '', file, line: number(line), column: 0 })
  },
  {
    // <tab>/path/file.go:12 +0x1d
    pattern: /^\t(\/?[^\s:]+\.go):(\d+)(?: \+0x[0-9a-f]+)?$/,
    read: ([, file, line]) => ({ function: '', file, line: number(line), column: 0 })
  }
];

/** Files and functions of runtimes and of installed packages. */
const FOREIGN =
  /^(?:node:|internal\/|native$|<anonymous>|<frozen )|node_modules[/\\]|site-packages[/\\]|dist-packages[/\\]|[/\\]lib[/\\]python\d|[/\\]go[/\\]pkg[/\\]mod[/\\]|[/\\]usr[/\\](?:local[/\\])?go[/\\]src[/\\]/;
const FOREIGN_FUNCTION =
  /^(?:java|javax|jdk|sun|com\.sun|kotlin|scala|jakarta|org\.(?:apache|springframework|hibernate|eclipse|junit)|io\.(?:netty|opentelemetry)|System|Microsoft)\./;

/** Longest stack read: what goes beyond is text of no use here. */
const MAX_LINES = 500;

/**
 * Parses an exception's stack text (`exception.stacktrace` of the OpenTelemetry semantic conventions) of Node.js, the JVM, Python, Go
 * or .NET, innermost frame first as the text has it. Lines of no known form are left out.
 */
export function parseStack(text: string): StackFrame[] {
  const frames: StackFrame[] = [];
  let goName = '';
  for (const line of text.split('\n', MAX_LINES)) {
    const frame = frameOf(line, goName);
    if (frame) frames.push(frame);
    // Go names the function on the line before its place.
    goName = /^([\w./*()-]+)\(.*\)$/.exec(line)?.[1] ?? '';
  }
  return frames;
}

function frameOf(line: string, goName: string): StackFrame | null {
  for (const { pattern, read } of SHAPES) {
    const found = pattern.exec(line);
    if (!found) continue;
    const frame = read(found);
    const name = frame.function || goName;
    const application = !FOREIGN.test(frame.file) && !FOREIGN_FUNCTION.test(name);
    return { ...frame, function: name, application, text: line.trim() };
  }
  return null;
}
