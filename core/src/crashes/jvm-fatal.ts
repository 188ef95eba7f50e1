import { EvidenceError } from '../formats/evidence-error';
import { causeOf } from './cause';
import { NO_CRASH, type Crash } from './crash';

/** Begins the JVM's fatal error log. */
export const JVM_FATAL = '# A fatal error has been detected by the Java Runtime Environment';
/** Ends it. */
const LAST = /^END\.\s*$/m;

/**
 * Reads the JVM's fatal error log, `hs_err_pid*.log` (source: Oracle, "Troubleshooting Guide", "Fatal Error Log"). What it tells of the environment and arguments is not read.
 * @throws EvidenceError `not-a-crash`.
 */
export function readJvmFatal(content: string): Crash {
  if (!content.includes(JVM_FATAL))
    throw new EvidenceError(
      'not-a-crash',
      'Expected the fatal error log of a JVM, but its first line is not there.'
    );
  const find = (pattern: RegExp): string => pattern.exec(content)?.[1]?.trim() ?? '';
  const signal = find(/^# {2}(SIG[A-Z]+|EXCEPTION_[A-Z_]+) \(/m);
  const said =
    find(/^# {2}(?:fatal error|Internal Error \(.*?\)|Error|Out of Memory Error)[^:\n]*: (.*)$/m) ||
    find(/^# {2}((?:fatal error|Error): .*)$/m);
  const memory = content.includes('# There is insufficient memory for the Java Runtime Environment');
  const frames = javaFrames(content);
  const where = find(/^# Problematic frame:\n# (.*)$/m);
  const message = memory
    ? 'There is insufficient memory for the Java Runtime Environment to continue'
    : said || (where ? `in ${where}` : '');
  const type = memory || /OutOfMemory/.test(said) ? 'java.lang.OutOfMemoryError' : signal || 'fatal error';
  const elapsed = Number(find(/^Time: .* elapsed time: ([\d.]+) seconds/m) || NaN);
  const at = Date.parse(find(/^Time: \w{3} (.*?) elapsed time:/m));
  return {
    ...NO_CRASH,
    cause:
      causeOf({ type, message }) ??
      (/stack overflow/i.test(content.slice(0, 4000)) ? 'recursion' : signal ? 'signal' : 'runtime'),
    exception: {
      type,
      message,
      stack: [`${type}: ${message}`, ...frames.map((frame) => `\tat ${frame}`)].join('\n')
    },
    runtime: `JVM ${find(/^# JRE version: .*? \(([\w.+-]+)\)/m)}`.trim(),
    signal: signal.startsWith('SIG') ? signal : '',
    thread: find(/^Current thread \(0x[0-9a-f]+\): +\w+ "(.*?)"/m),
    pid: Number(find(/\bpid=(\d+)/)) || 0,
    atMs: Number.isFinite(at) ? at : null,
    uptimeMs: Number.isFinite(elapsed) ? elapsed * 1000 : null,
    memory: memoryOf(content),
    limits: limitsOf(content),
    program: jvmProgram(find(/^Command Line: (.*)$/m)),
    isCut: !LAST.test(content.slice(-200))
  };
}

/** Of a JVM's command line the first word that is no option: the main class or the archive. */
export const jvmProgram = (command: string): string =>
  command.split(' ').find((word) => !word.startsWith('-')) ?? '';

/** Frames of Java code, innermost first: those of their own part, where the log has one, else those among the native frames. */
function javaFrames(content: string): string[] {
  const part =
    /^Java frames: .*\n([\s\S]*?)\n\n/m.exec(content)?.[1] ??
    /^Native frames: .*\n([\s\S]*?)\n\n/m.exec(content)?.[1] ??
    '';
  return part.split('\n').flatMap((line) => {
    const found = /^[jJ] +(?:\d+(?:%)?(?: !)? +(?:c1|c2|jvmci)? *)?([\w.$/<>]+)\(/.exec(
      line.replace(/ +/g, ' ')
    );
    const module = /([\w.]+)@[\d.]+/.exec(line)?.[1];
    return found ? [`${module ? `${module}/` : ''}${found[1].replaceAll('/', '.')}(Unknown Source)`] : [];
  });
}

const KILO = 1024;
function memoryOf(content: string): Crash['memory'] {
  const kilobytes = (name: string, pattern: RegExp): Crash['memory'] => {
    const found = pattern.exec(content);
    return found ? [{ name, bytes: Number(found[1]) * KILO }] : [];
  };
  const heap = /^Heap:\n([\s\S]*?)\n\n/m.exec(content)?.[1] ?? '';
  const used = [...heap.matchAll(/^ ?\w[^\n]*?total (\d+)K, used (\d+)K/gm)];
  return [
    ...(used.length > 0
      ? [{ name: 'heap in use', bytes: used.reduce((sum, [, , value]) => sum + Number(value) * KILO, 0) }]
      : []),
    ...kilobytes('metaspace', /^ Metaspace +used (\d+)K/m),
    ...kilobytes('resident', /^Resident Set Size: (\d+)K/m),
    ...kilobytes('resident, at most', /^Resident Set Size: \d+K \(peak: (\d+)K\)/m)
  ];
}

function limitsOf(content: string): Crash['limits'] {
  const heap = /^ Heap Max Capacity: (\d+)([KMG])/m.exec(content);
  const factor = { K: KILO, M: KILO ** 2, G: KILO ** 3 };
  const files = /\bNOFILE (\d+|infinity)\//.exec(content)?.[1];
  return [
    ...(heap
      ? [{ name: 'heap', value: Number(heap[1]) * factor[heap[2] as 'K'], unit: 'bytes' as const }]
      : []),
    ...(files
      ? [{ name: 'open files', value: files === 'infinity' ? null : Number(files), unit: 'files' as const }]
      : [])
  ];
}
