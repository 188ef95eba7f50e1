import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { doingOf, modeOfDoing } from './doing';
import { FrameList } from './frame-list';
import { javaFrame } from './java-frame';
import { JVM_MODES } from './jvm-modes';
import type { DumpSeries, DumpThread } from './model';
import { bareThread } from './bare-thread';

/** `#22 "berth-worker-1"`, of a virtual thread with `virtual` behind it; since JDK 24 its state and a time. */
const THREAD = /^#(\d+) "(.*)"(?: (virtual))?(?: ([A-Z_]+))?(?: \d{4}-\d\d-\d\dT\S+)?\s*$/;
const FRAME = /^\s{4,}(?!\/\/|- )(\S.*\))\s*$/;

/** True for a text that begins as such a dump does: the process, the time, the version, one below the other, and then threads. */
export const looksLikeThreadFile = (head: string): boolean =>
  /^\s*\d+\r?\n\d{4}-\d\d-\d\dT[\d:.]+Z\r?\n\S+\r?\n\s*\r?\n#\d+ "/.test(head);

/**
 * Reads the plain text of `jcmd <pid> Thread.dump_to_file` of JDK 21 and later, which names virtual threads too (source of the form: the JDK's
 * own `jdk.internal.vm.ThreadDumper`, from memory). It tells no locks, and before JDK 24 no states.
 * @throws EvidenceError `no-threads`.
 */
export function readJvmFileText(text: string): { series: DumpSeries; warnings: Warning[] } {
  const warnings = new Warnings();
  const list = new FrameList(javaFrame);
  const [pid = '', time = '', version = '', ...lines] = text.trimStart().split(/\r?\n/);
  const threads: DumpThread[] = [];
  let stack: number[] = [];
  const close = (): void => {
    const thread = threads.at(-1);
    if (thread) complete(thread, stack, list);
    stack = [];
  };
  for (const line of lines) {
    const head = THREAD.exec(line);
    const frame = FRAME.exec(line)?.[1];
    if (head) {
      close();
      threads.push(threadOf(head));
    } else if (frame && threads.length > 0) stack.push(list.ofLine(frame));
    else if (line.trim() !== '' && !/^\s*(?:\/\/|- )/.test(line))
      warnings.add('other-lines', 'A line belongs to no thread; it was passed over.');
  }
  close();
  if (threads.length === 0)
    throw new EvidenceError(
      'no-threads',
      'Expected the text of Thread.dump_to_file (process, time, version, then lines #1 "main"), but no thread was found.'
    );
  warnings.add(
    'no-locks',
    'This dump has no locks: what a thread does is read from its top frames, and who waits for whom is unknown. The JSON form of JDK 24 and later has them.'
  );
  return {
    series: {
      format: 'jvm-threads-file',
      frames: list.frames,
      dumps: [
        {
          capturedAt: time,
          runtime: `Java ${version}`,
          pid: Number(pid) || 0,
          threads,
          locks: [],
          reportedDeadlocks: [],
          notes: []
        }
      ]
    },
    warnings: warnings.list()
  };
}

function threadOf([, id, name, virtual, state = '']: RegExpExecArray): DumpThread {
  return {
    ...bareThread(name || `virtual thread ${id}`, id),
    state,
    mode: JVM_MODES.get(state) ?? 'unknown',
    virtual: virtual !== undefined
  };
}

function complete(thread: DumpThread, stack: readonly number[], { frames }: FrameList): void {
  thread.frames = Int32Array.from(stack);
  thread.system = stack.length === 0;
  const doing = doingOf(frames, thread.frames);
  if (thread.state === '') thread.mode = modeOfDoing(doing);
  else if (thread.mode === 'waiting' && doing === 'sleeping') thread.mode = 'sleeping';
}
