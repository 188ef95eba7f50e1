/** One frame of a stack as an exception carries it in text. */
export interface StackFrame {
  /** '' where the text does not name it. */
  function: string;
  file: string;
  /** 0 where unknown. */
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
  read: (found: RegExpExecArray) => Pick<StackFrame, 'function' | 'file' | 'line' | 'column'>;
}

const number = (text: string | undefined): number => (text ? Number(text) : 0);
const place = (name: string | undefined, file: string, line?: string, column?: string) => ({
  function: name ?? '',
  file,
  line: number(line),
  column: number(column)
});

/**
 * The forms that frames take in text. Sources: the documentation of V8's stack trace API; of java.lang.Throwable.printStackTrace; of Python's
 * traceback module; of Go's runtime/debug.Stack (two lines a frame); of .NET's Exception.StackTrace; of Ruby's Exception#full_message; of PHP's
 * Exception::getTraceAsString; Error.prototype.stack as Firefox and Safari write it (MDN).
 */
const SHAPES: Shape[] = [
  {
    // at name (file:line:column), at file:line:column, at async name (…), at eval (eval at … (file:1:2), <anonymous>:3:4)
    pattern:
      /^\s*at (?:async )?(?:(.+?) \()?((?:node:|file:\/\/|[A-Za-z]:\\|[a-z-]+:\/\/\/?)?[^():]*?(?::\d+(?=\/)[^():]*?)?):(\d+):(\d+)\)?$/,
    read: ([, name, file, line, column]) => place(name, file, line, column)
  },
  {
    // at Name.Space.Method(args) in /path/File.cs:line 12
    pattern: /^\s*at (.+?)\([^)]*\) in (.+):line (\d+)$/,
    read: ([, name, file, line]) => place(name, file, line)
  },
  {
    // at package.Class.method(File.java:12), with an optional module prefix; PHP as the OpenTelemetry SDK writes it
    pattern: /^\s*at (?:[\w.@-]*\/)*([\w.$<>/:{}-]+)\(([^():]+)(?::(\d+))?\)/,
    read: ([, name, file, line]) => place(name, file, line)
  },
  {
    // at Name.Space.Method(args), of a .NET build without its symbols
    pattern: /^\s*at ([\w.`<>+|[\],]+)\([^)]*\)$/,
    read: ([, name]) => place(name, '')
  },
  {
    // at Array.map (<anonymous>), at native
    pattern: /^\s*at (?:async )?(.+?) \((<anonymous>|native(?: code)?)\)$/,
    read: ([, name, file]) => place(name, file)
  },
  {
    // File "x.py", line 12, in name
    pattern: /^[\s|]*File "([^"]+)", line (\d+)(?:, in (.+))?$/,
    read: ([, file, line, name]) => place(name, file, line)
  },
  {
    // <tab>/path/file.go:12 +0x1d, of a fatal error with registers behind
    pattern:
      /^\t(\/?[^\s:]+\.(?:go|s)):(\d+)(?: \+0x[0-9a-f]+)?(?: fp=0x[0-9a-f]+ sp=0x[0-9a-f]+ pc=0x[0-9a-f]+)?$/,
    read: ([, file, line]) => place('', file, line)
  },
  {
    // #0 /path/file.php(12): Name\Space\Class->method('…'), #1 [internal function]: {closure}()
    pattern: /^#\d+ (?:(.+?)\((\d+)\)|(\[internal function\])): (.+?)(?:\(.*\)?)?$/,
    read: ([, file, line, internal, name]) => place(name, file ?? internal, line)
  },
  {
    // file.rb:12:in 'Class#method', from file.rb:12:in `method'
    pattern:
      /^\s*(?:from )?([^\s:"][^:"]*\.(?:rb|ru|rake|erb)|<internal:[^>]+>|\([^)]+\)|-e):(\d+)(?::in [`'](.+?)')?$/,
    read: ([, file, line, name]) => place(name, file, line)
  },
  {
    // name@https://host/app.js:12:5, of Firefox and Safari
    pattern: /^(?:async\*)?([^@\s]*)@(?:(\[native code\])|(.+?):(\d+)(?::(\d+))?)$/,
    read: ([, name, native, file, line, column]) => place(name, native ?? file, line, column)
  }
];

/** Files of runtimes and of installed packages. */
const FOREIGN =
  /^(?:node:|internal\/|native|\[native code\]|\[internal function\]|<anonymous>|<frozen |<internal:|<string>|[a-z-]+-extension:\/\/)|node_modules[/\\]|site-packages[/\\]|dist-packages[/\\]|[/\\]lib[/\\]python\d|[/\\]go[/\\]pkg[/\\]mod[/\\]|[/\\]go-[\d.]+[/\\]src[/\\]|[/\\](?:go|golang)[/\\]src[/\\](?!.*\.\w+[/\\])|[/\\]gems[/\\]|[/\\]lib[/\\]ruby[/\\]|[/\\]vendor[/\\](?!.*[/\\]vendor[/\\])/;
const FOREIGN_FUNCTION =
  /^(?:java|javax|jdk|sun|com\.sun|kotlin|kotlinx|scala|jakarta|groovy|reactor|org\.(?:apache|springframework|hibernate|eclipse|junit|jboss|slf4j)|io\.(?:netty|opentelemetry|micrometer|grpc)|okhttp3|System|Microsoft|runtime|net\/http|panic)\.|^panic$|^<__array_function__|^(?:json|array|str|preg|mysqli|curl|file|iterator|call_user_func|u[sak]*sort|forward_static_call)(?:_\w+)?$/;

/**
 * Reads one line of a stack as a frame; null where it has the form of none.
 * @param goName what Go says on the line before the place of a frame; '' for none
 */
export function frameOf(text: string, goName = ''): StackFrame | null {
  if (!looksLikeFrame(text)) return null;
  for (const { pattern, read } of SHAPES) {
    const found = pattern.exec(text);
    if (!found) continue;
    const frame = read(found);
    const name = frame.function || goName;
    return { ...frame, function: name, application: isApplication(frame.file, name), text: text.trim() };
  }
  return null;
}

/** Longest line that is a frame: messages may be megabytes. */
const MAX_LINE = 2000;
const looksLikeFrame = (line: string): boolean =>
  line.length <= MAX_LINE && /^[\s|]*(?:at |File "|from )|^\t\S|^#\d+ |@|^\S.*:\d+(?::in |$)/.test(line);

/** Whether a frame is of the program itself: neither of its runtime nor of what it was built with. */
export const isApplication = (file: string, name: string): boolean =>
  (file !== '' || name !== '') && !FOREIGN.test(file) && !FOREIGN_FUNCTION.test(name);

/** Go names the function on the line before its place; '' where the line names none. */
export const goNameOf = (line: string): string =>
  (/^created by (\S+)/.exec(line) ?? /^((?:[^()\s]|\(\*?[\w[\].]+\))+)\(/.exec(line))?.[1] ?? '';
