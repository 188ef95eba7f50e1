import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { FrameList } from './frame-list';
import { javaFrame } from './java-frame';
import { LockTable } from './lock-table';
import { JVM_MODES } from './jvm-modes';
import type { DumpSeries, DumpThread, ThreadDump, ReportedDeadlock, WaitKind } from './model';

const FULL_DUMP = 'Full thread dump ';
const TIME = /(\d{4}-\d\d-\d\d)[ T](\d\d:\d\d:\d\d)(?:[.,]\d+)?\s*(Z|[+-]\d\d:?\d\d)?\s*$/;
/** Everything after the name; the name is all up to the last quote before it, whatever it holds. */
const TAIL = /" (?:#\d|\[\d|(?:daemon |prio=|os_prio=|cpu=|tid=|nid=))/;
const LOCK = /<([^>]*)>(?:,? \(an? (.*)\))?/;
const TAB = 9;
const DASH = 45;
const LETTER_A = 97;
/** Synchronizers that one thread holds and others wait for until it lets go. */
const MUTUAL = /\.(?:ReentrantLock|ReentrantReadWriteLock|StampedLock)\b/;

/** The lines of a lock, by how they begin after `- `. */
const WAIT_LINES: readonly [string, WaitKind][] = [
  ['waiting to lock ', 'enter'],
  ['waiting to re-lock in wait() ', 're-enter'],
  ['parking to wait for ', 'park'],
  ['waiting on ', 'notify']
];

/** Frames that stood below another one, and their lines. */
interface Run {
  text: string;
  frames: Int32Array;
}
/** Fewer frames than this are read as fast line by line. */
const LEAST_RUN = 4;

type Section = 'outside' | 'threads' | 'synchronizers' | 'deadlock';

/**
 * Reads HotSpot's text dumps (`SIGQUIT`, `jstack`, `jcmd Thread.print`) of JDK 8 to 21 and later, one or many in a text, amid any
 * other lines. Source of the form: dumps of real machines, and the comments of the JDK's own `VM_PrintThreads`.
 * @throws EvidenceError `no-threads`.
 */
export function readJvmText(text: string): { series: DumpSeries; warnings: Warning[] } {
  const reader = new JvmTextReader();
  for (let at = 0; at < text.length;) {
    let end = text.indexOf('\n', at);
    if (end < 0) end = text.length;
    const stop = end > at && text.charCodeAt(end - 1) === 13 ? end - 1 : end;
    reader.line(text, at, stop);
    at = reader.pastKnown(text, end + 1);
  }
  return reader.finish();
}

class JvmTextReader {
  readonly #warnings = new Warnings();
  readonly #frames = new FrameList(javaFrame);
  readonly #dumps: ThreadDump[] = [];
  #locks = new LockTable();
  #dump: ThreadDump | null = null;
  #thread: DumpThread | null = null;
  /** Frames of the thread at hand; only the first `#depth` count. */
  #stack = new Int32Array(1024);
  #depth = 0;
  /** By the frame at the top of each run of frames, what stood below it last. */
  readonly #runs = new Map<number, Run>();
  /** Where the lines below the top of the run at hand begin, and how deep its top stands; −1 outside of runs. */
  #runFrom = -1;
  #runDepth = 0;
  /** The line before was no frame: the next frame is the top of a run. */
  #startsRun = true;
  #section: Section = 'outside';
  #time = '';
  /** `jcmd` writes the process's number on a line of its own first. */
  #pid = 0;
  #deadlocked: ReportedDeadlock['threads'][number] | null = null;
  #ended = true;
  /** A name with a line break in it, until its end comes. */
  #openName = '';
  #tids = new Set<string>();

  line(text: string, from: number, to: number): void {
    // Frames are nearly all lines: they are recognised by their first characters.
    if (this.#section === 'threads' && text.charCodeAt(from) === TAB) {
      const second = text.charCodeAt(from + 1);
      if (second === LETTER_A) return this.#frame(text.slice(from + 4, to));
      this.#endRun(text, from);
      if (second === DASH) return this.#lockLine(text.slice(from + 3, to));
    } else this.#endRun(text, from);
    if (from === to) return;
    this.#other(text.slice(from, to));
  }

  /**
   * Takes all lines at once that stand below the frame just read, where they are those that stood below it before: the threads of a pool stand at
   * the same places. @param from where the next line begins @returns where the one after them begins
   */
  pastKnown(text: string, from: number): number {
    if (!this.#thread || this.#depth === 0 || this.#runFrom >= 0 || !this.#startsRun) return from;
    this.#startsRun = false;
    const known = this.#runs.get(this.#stack[this.#depth - 1]);
    if (known && text.slice(from, from + known.text.length) === known.text) {
      this.#makeRoom(known.frames.length);
      this.#stack.set(known.frames, this.#depth);
      this.#depth += known.frames.length;
      return from + known.text.length;
    }
    [this.#runFrom, this.#runDepth] = [from, this.#depth];
    return from;
  }

  /** Keeps the run of frames that ends here for others like it. */
  #endRun(text: string, end: number): void {
    this.#startsRun = true;
    if (this.#runFrom < 0) return;
    if (this.#depth - this.#runDepth >= LEAST_RUN)
      this.#runs.set(this.#stack[this.#runDepth - 1], {
        text: text.slice(this.#runFrom, end),
        frames: this.#stack.slice(this.#runDepth, this.#depth)
      });
    this.#runFrom = -1;
  }

  #makeRoom(frames: number): void {
    if (this.#depth + frames <= this.#stack.length) return;
    const deeper = new Int32Array(Math.max(2 * this.#stack.length, this.#depth + frames));
    deeper.set(this.#stack);
    this.#stack = deeper;
  }

  #frame(line: string): void {
    if (!this.#thread)
      return this.#warnings.add('stray-frame', 'A frame belongs to no thread; it was left out.');
    this.#makeRoom(1);
    this.#stack[this.#depth] =
      this.#depth > 0
        ? this.#frames.ofLineAfter(this.#stack[this.#depth - 1], line)
        : this.#frames.ofLine(line);
    this.#depth++;
  }

  #other(line: string): void {
    const header = line.indexOf(FULL_DUMP);
    if (header >= 0) return this.#begin(line.slice(header + FULL_DUMP.length), line.slice(0, header));
    const time = TIME.exec(line);
    if (time && line.length < 60) this.#time = `${time[1]}T${time[2]}${time[3] ?? ''}`;
    const pid = /^(\d+):$/.exec(line);
    if (pid) this.#pid = Number(pid[1]);
    if (!this.#dump) return;
    if (/^Found (?:one|\d+) Java-level deadlocks?:/.test(line)) return this.#beginDeadlock();
    if (this.#section === 'deadlock') return this.#deadlockLine(line);
    if (this.#section === 'outside') return;
    if (this.#openName !== '') return this.#continueName(line);
    if (line.startsWith('"')) return this.#header(line);
    if (line.startsWith('   java.lang.Thread.State: ')) return this.#state(line.slice(27));
    if (line.trimStart().startsWith('Locked ownable synchronizers')) {
      this.#section = 'synchronizers';
      return;
    }
    if (this.#section === 'synchronizers' && line.startsWith('\t- '))
      return this.#synchronizer(line.slice(3));
    if (line.startsWith('JNI global ref')) {
      this.#closeThread();
      this.#ended = true;
      return;
    }
    if (line.startsWith('   Carrying virtual thread')) return;
    if (line.startsWith('\tat ')) return this.#frame(line.slice(4));
    if (this.#thread && !line.startsWith('   ') && !time)
      this.#warnings.add('other-lines', 'A line between the threads belongs to no dump; it was passed over.');
  }

  #begin(runtime: string, before: string): void {
    this.#close();
    const time = TIME.exec(before.trim());
    if (time) this.#time = `${time[1]}T${time[2]}${time[3] ?? ''}`;
    this.#locks = new LockTable();
    this.#tids = new Set();
    this.#ended = false;
    this.#section = 'threads';
    this.#dump = {
      capturedAt: this.#time,
      runtime: runtime.replace(/:\s*$/, ''),
      pid: this.#pid,
      threads: [],
      locks: this.#locks.locks,
      reportedDeadlocks: [],
      notes: []
    };
    this.#time = '';
  }

  #header(line: string): void {
    const tail = TAIL.exec(line);
    if (!tail) {
      this.#openName = line;
      return;
    }
    this.#closeThread();
    // The name may hold what looks like a tail: the last one that still has a tid counts.
    let at = tail.index;
    for (let next = at; ;) {
      const found = TAIL.exec(line.slice(next + 1));
      if (!found || !/\btid=/.test(line.slice(next + 1 + found.index))) break;
      at = next = next + 1 + found.index;
    }
    const facts = line.slice(at + 2);
    const id = /\btid=(0x[0-9a-f]+)/.exec(facts)?.[1] ?? '';
    const javaId = /^#(\d+)/.exec(facts)?.[1] ?? '';
    if (id !== '' && this.#tids.has(id))
      this.#warnings.add(
        'same-thread-twice',
        'A thread stands twice in one dump: two dumps may have been written through each other. Both are shown.'
      );
    this.#tids.add(id);
    const state = /\bnid=\S+ (.*?)\s*(?:\[0x[0-9a-f]+\])?$/.exec(facts)?.[1] ?? '';
    this.#thread = {
      name: line.slice(1, at),
      id: id || javaId,
      nativeId: nativeId(/\bnid=(\S+)/.exec(facts)?.[1] ?? ''),
      state: '',
      mode: state.startsWith('runnable') ? 'running' : state === '' ? 'unknown' : 'waiting',
      daemon: /(?:^|\s)daemon\s/.test(facts),
      virtual: /(?:^|\s)virtual(?:\s|$)/.test(facts),
      system: javaId === '',
      cpuMs: milliseconds(/\bcpu=([\d.]+)(ms|s)/.exec(facts)),
      elapsedMs: milliseconds(/\belapsed=([\d.]+)(ms|s)/.exec(facts)),
      frames: new Int32Array(0),
      holds: [],
      waitsFor: null
    };
    this.#section = 'threads';
  }

  #continueName(line: string): void {
    const whole = `${this.#openName}\n${line}`;
    this.#openName = '';
    if (TAIL.test(whole)) this.#header(whole);
    else if (line.startsWith('"') || line.startsWith('\t') || whole.length > 2000) {
      this.#warnings.add('no-thread-line', 'A line starts like a thread but describes none; it was skipped.');
      if (line.startsWith('"')) this.#header(line);
    } else this.#openName = whole;
  }

  #state(words: string): void {
    if (!this.#thread) return;
    const state = /^[A-Z_]+/.exec(words)?.[0] ?? '';
    this.#thread.state = state;
    this.#thread.mode = words.includes('(sleeping)') ? 'sleeping' : (JVM_MODES.get(state) ?? 'unknown');
  }

  #lockLine(line: string): void {
    if (!this.#thread) return;
    const depth = this.#depth - 1;
    if (line.startsWith('locked ') || line.startsWith('eliminated ')) {
      const lock = this.#lockOf(line);
      // What was optimised away has no address, and nobody can wait for it.
      if (lock >= 0 && line.startsWith('locked ')) this.#thread.holds.push({ lock, depth });
      return;
    }
    const wait = WAIT_LINES.find(([begin]) => line.startsWith(begin));
    if (!wait) return;
    const lock = this.#lockOf(line);
    if (lock >= 0) this.#thread.waitsFor = { lock, depth, kind: wait[1] };
  }

  #synchronizer(line: string): void {
    const lock = this.#lockOf(line);
    if (lock >= 0) this.#thread?.holds.push({ lock, depth: -1 });
  }

  /** −1 where the line names no address. */
  #lockOf(line: string): number {
    const found = LOCK.exec(line);
    if (!found || !/^0x[0-9a-f]+$/i.test(found[1])) return -1;
    return this.#locks.indexOf(found[1], found[2] ?? '');
  }

  #beginDeadlock(): void {
    this.#closeThread();
    this.#section = 'deadlock';
    this.#deadlocked = null;
    this.#dump!.reportedDeadlocks.push({ threads: [] });
  }

  #deadlockLine(line: string): void {
    const deadlock = this.#dump!.reportedDeadlocks.at(-1)!;
    if (line.startsWith('Java stack information')) {
      this.#deadlocked = null;
      this.#section = 'outside';
      return;
    }
    const name = /^"(.*)":\s*$/.exec(line);
    if (name) {
      // The runtime lists several deadlocks one after another under one heading: a thread named before begins the next.
      this.#deadlocked = { name: name[1], lock: '', heldBy: '' };
      const closed =
        deadlock.threads.length > 1 && deadlock.threads[0].name === deadlock.threads.at(-1)!.heldBy;
      if (closed) this.#dump!.reportedDeadlocks.push({ threads: [this.#deadlocked] });
      else deadlock.threads.push(this.#deadlocked);
      return;
    }
    if (!this.#deadlocked) return;
    const lock = /\(object (0x[0-9a-f]+)/.exec(line) ?? /synchronizer (0x[0-9a-f]+)/.exec(line);
    if (lock) {
      this.#deadlocked.lock = lock[1];
      this.#locks.indexOf(lock[1], /, \(?an? ([^)]+)\)/.exec(line)?.[1] ?? '');
    }
    const held = /held by "(.*)"/.exec(line);
    if (held) this.#deadlocked.heldBy = held[1];
  }

  #closeThread(): void {
    const thread = this.#thread;
    this.#thread = null;
    if (!thread) return;
    thread.frames = this.#stack.slice(0, this.#depth);
    this.#depth = 0;
    if (thread.frames.length === 0) thread.system = true;
    const wait = thread.waitsFor;
    if (wait?.kind === 'notify') {
      // While it waits for a notification the monitor is given away, though the frames that took it still say "locked".
      thread.holds = thread.holds.filter(({ lock }) => lock !== wait.lock);
      if (thread.state === 'BLOCKED') wait.kind = 're-enter';
    } else if (wait?.kind === 'park' && MUTUAL.test(this.#locks.locks[wait.lock].className)) {
      // The machine says "waiting" of those that wait for a lock of the library, and "blocked" for its own monitors only.
      if (thread.mode === 'waiting') thread.mode = 'blocked';
    } else if (wait?.kind === 're-enter')
      thread.holds = thread.holds.filter(({ lock }) => lock !== wait.lock);
    this.#dump!.threads.push(thread);
  }

  #close(): void {
    if (this.#openName !== '')
      this.#warnings.add('no-thread-line', 'A line starts like a thread but describes none; it was skipped.');
    this.#openName = '';
    this.#closeThread();
    const dump = this.#dump;
    this.#dump = null;
    if (!dump) return;
    dump.reportedDeadlocks = dump.reportedDeadlocks.filter(({ threads }) => threads.length > 0);
    if (dump.threads.length === 0) {
      this.#warnings.add('empty-dump', 'A dump has a heading but no thread; it was left out.');
      return;
    }
    if (!this.#ended)
      this.#warnings.add(
        'no-end',
        'A dump has no closing line (JNI global references): it may be cut off, and threads may be missing.'
      );
    this.#dumps.push(dump);
  }

  finish(): { series: DumpSeries; warnings: Warning[] } {
    this.#close();
    if (this.#dumps.length === 0)
      throw new EvidenceError(
        'no-threads',
        'Expected a thread dump of a JVM (a line “Full thread dump …” and then threads), but no thread was found. Take the dump again, and save its whole output.'
      );
    return {
      series: { format: 'jvm-threads', frames: this.#frames.frames, dumps: this.#dumps },
      warnings: this.#warnings.list()
    };
  }
}

function milliseconds(found: RegExpExecArray | null): number | null {
  return found ? Number(found[1]) * (found[2] === 's' ? 1000 : 1) : null;
}

/** JDK 8 to 17 write it hexadecimal, later ones decimal. */
function nativeId(text: string): string {
  return text.startsWith('0x') ? String(Number(text)) : text;
}
