import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { doingOf, modeOfDoing } from './doing';
import { FrameList } from './frame-list';
import type { DumpSeries, DumpThread, ThreadDump, ThreadFrame } from './model';
import { whosePython } from '../whose/python';
import { bareThread } from './bare-thread';

const THREAD = /^(Current thread|Thread) (0x[0-9a-f]+)(?: \[(.*)\])? \(most recent call first\):/;
const ALONE = /^(?:Stack|Traceback) \(most recent call first\):/;
const FRAME = /^ {2}File "(.*)", line (\d+|\?\?\?)(?: in (.*))?$/;
const NO_FRAMES = /^ {2}(?:<no Python frame>|<tstate is freed>|Garbage-collecting)/;
const CUT = /^ {2}(?:\.\.\.|<truncated rest of calls>)/;

/**
 * Reads the text Python's `faulthandler` module writes (source of the form: the module's documentation), one dump or many: a
 * dump begins at `Timeout (…)!`, at `Fatal Python error: …`, or where a thread comes that the dump has already. It tells no
 * states: they are read off the top frames.
 * @throws EvidenceError `no-threads`.
 */
export function readPythonText(text: string): { series: DumpSeries; warnings: Warning[] } {
  const warnings = new Warnings();
  const frames = new FrameList(pythonFrame);
  const dumps: ThreadDump[] = [];
  let dump: ThreadDump | null = null;
  let thread: DumpThread | null = null;
  let stack: number[] = [];
  let seen = new Set<string>();
  let note = '';
  const close = (): void => {
    if (!thread) return;
    thread.frames = Int32Array.from(stack);
    thread.mode = modeOfDoing(doingOf(frames.frames, thread.frames));
    thread = null;
    stack = [];
  };
  const begin = (): ThreadDump => {
    close();
    seen = new Set();
    dump = {
      capturedAt: '',
      runtime: 'Python',
      pid: 0,
      threads: [],
      locks: [],
      reportedDeadlocks: [],
      notes: note ? [note] : []
    };
    note = '';
    dumps.push(dump);
    return dump;
  };
  for (const line of text.split(/\r?\n/)) {
    const frame = FRAME.exec(line);
    if (frame && thread) {
      stack.push(frames.ofLine(line));
      continue;
    }
    const head = THREAD.exec(line);
    if (head || ALONE.test(line)) {
      const [, which = 'Current thread', id = '', name = ''] = head ?? [];
      close();
      if (!dump || note !== '' || seen.has(id)) dump = begin();
      seen.add(id);
      thread = bareThread(name || id || 'the only thread', id);
      if (which === 'Current thread') dump.notes.push(`${thread.name} was the current thread`);
      dump.threads.push(thread);
    } else if (/^(?:Timeout \(.*\)!|Fatal Python error: .*)$/.test(line)) {
      close();
      note = line;
    } else if (CUT.test(line))
      warnings.add('stack-cut', 'Python cut a stack off at its limit; its outer frames are missing.');
    else if (frame) warnings.add('stray-frame', 'A frame belongs to no thread; it was left out.');
    else if (line.trim() === '') close();
    else if (!NO_FRAMES.test(line))
      warnings.add('other-lines', 'A line belongs to no thread; it was passed over.');
  }
  close();
  if (dumps.length === 0)
    throw new EvidenceError(
      'no-threads',
      'Expected the text of Python’s fault handler (a line “Thread 0x… (most recent call first):” and then frames), but no thread was found.'
    );
  warnings.add(
    'no-states',
    'Python’s fault handler records neither states nor locks: what a thread does is read from its top frames.'
  );
  return { series: { format: 'python-threads', frames: frames.frames, dumps }, warnings: warnings.list() };
}

function pythonFrame(line: string): ThreadFrame {
  const [, file, number, name = '(unknown)'] = FRAME.exec(line)!;
  return { name, file, line: Number(number) || 0, column: 0, ...whosePython(file) };
}
