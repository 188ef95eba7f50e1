import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { doingOf, modeOfDoing } from './doing';
import { FrameList } from './frame-list';
import { LockTable } from './lock-table';
import type { DumpSeries, DumpThread, ThreadDump, ThreadFrame, ThreadMode } from './model';
import { whoseGo } from '../whose/go';
import { bareThread } from './bare-thread';

/** `goroutine 7 gp=0x… m=0 mp=0x… [select, 5 minutes, locked to thread]:`, and alike ones as `12 goroutines [select]:`. */
const ONE = /^goroutine (\d+)(?: gp=\S+)?(?: m=\S+)?(?: mp=\S+)? \[([^\]]*)\]:?$/;
const MANY = /^(\d+) goroutines? \[([^\]]*)\]:?$/;
/** `goroutine profile: total 12`, then `3 @ 0x43a1c5 0x…` and `#	0x46e2c1	main.work+0x61	/app/main.go:12`. */
const PROFILE = /^goroutine profile: total (\d+)/;
const COUNTED = /^(\d+) @(?: 0x[0-9a-f]+)*$/;
const COUNTED_FRAME = /^#\s+0x[0-9a-f]+\s+(\S.*?)(?:\+0x[0-9a-f]+)?\s+(\S+):(\d+)$/;
const PLACE = /^\s+(\S.*?):(\d+)(?: \+0x[0-9a-f]+)?(?: fp=.*)?$/;
const CALL = /^(?:created by )?(\S.*?)(?:\((?:[^()]|\([^()]*\))*\))?(?: in goroutine \d+)?$/;
/** The address of what is locked is the first argument of the method; with a question mark after it Go does not know it any more. */
const MUTEX = /^sync\.\(\*(Mutex|RWMutex|WaitGroup|Cond|Once)\)\.\w+\((0x[0-9a-f]+)[,)]/;

/** Wait reasons as Go's scheduler words them (source: `runtime/runtime2.go`, from memory). */
function modeOfState(state: string): ThreadMode {
  if (/^(?:running|runnable|syscall|preempted|copystack)/.test(state)) return 'running';
  if (/^(?:semacquire|sync\.(?:RW)?Mutex)/.test(state)) return 'blocked';
  if (state.startsWith('sleep')) return 'sleeping';
  return 'waiting';
}

/**
 * Reads the text of Go's goroutines: of a panic or `SIGQUIT`, of `runtime.Stack` and of the goroutine profile (also with
 * groups of alike ones). Go names no owner of a lock, so none is known.
 * @throws EvidenceError `no-threads`.
 */
export function readGoText(text: string): { series: DumpSeries; warnings: Warning[] } {
  const reader = new GoReader();
  for (const line of text.split(/\r?\n/)) reader.line(line);
  return reader.finish();
}

const ASLEEP = /^fatal error: all goroutines are asleep - deadlock!/;
/** The note of a dump the runtime wrote because nothing could go on. */
export const ALL_ASLEEP = 'Go ended the process: all goroutines are asleep, a deadlock';

class GoReader {
  readonly #warnings = new Warnings();
  readonly #frames = new FrameList(goFrame);
  readonly #dumps: ThreadDump[] = [];
  #dump: ThreadDump | null = null;
  #locks = new LockTable();
  #seen = new Set<string>();
  #thread: DumpThread | null = null;
  #times = 1;
  #room = MAX_ALIKE;
  #stack: number[] = [];
  #call = '';
  #created = false;
  #note = '';

  line(line: string): void {
    if (line === '') return this.#close();
    const profile = PROFILE.exec(line);
    if (profile) {
      this.#close();
      this.#begin(`a goroutine profile of ${profile[1]}`);
      return;
    }
    if (ASLEEP.test(line)) {
      this.#close();
      this.#dump = null;
      this.#note = ALL_ASLEEP;
      return;
    }
    const one = ONE.exec(line);
    if (one) return this.#open(one[1], one[2], 1);
    const many = MANY.exec(line);
    if (many) return this.#open('', many[2], Number(many[1]));
    const counted = COUNTED.exec(line);
    if (counted && this.#dump) return this.#open('', '', Number(counted[1]));
    if (this.#thread) this.#stackLine(line);
    else if (!/^(?:SIGQUIT|PC=|panic:|fatal error:|exit status|r\w+ +0x|\[signal)/.test(line) && this.#dump)
      this.#warnings.add('other-lines', 'A line belongs to no goroutine; it was passed over.');
  }

  #stackLine(line: string): void {
    const counted = COUNTED_FRAME.exec(line);
    if (counted) {
      this.#stack.push(this.#frames.ofLine(`${counted[1]}\n${counted[2]}:${counted[3]}`));
      return;
    }
    if (line.startsWith('#')) return;
    if (/^\.\.\.\s*\(?\d*.*frames elided/.test(line)) {
      this.#warnings.add('stack-cut', 'Go left out the middle of a deep stack.');
      return;
    }
    const place = PLACE.exec(line);
    if (place && this.#call !== '') {
      // What created a goroutine is no frame of its stack.
      if (!this.#created) this.#stack.push(this.#frames.ofLine(`${this.#call}\n${place[1]}:${place[2]}`));
      this.#call = '';
      return;
    }
    const lock = MUTEX.exec(line);
    if (lock && this.#thread && !this.#thread.waitsFor)
      this.#thread.waitsFor = {
        lock: this.#locks.indexOf(lock[2], `sync.${lock[1]}`),
        depth: this.#stack.length,
        kind: lock[1].endsWith('Mutex') ? 'mutex' : 'notify'
      };
    this.#created = line.startsWith('created by ');
    this.#call = CALL.exec(line)?.[1] ?? '';
  }

  #begin(note = ''): void {
    this.#locks = new LockTable();
    this.#seen = new Set();
    this.#dump = {
      capturedAt: '',
      runtime: 'Go',
      pid: 0,
      threads: [],
      locks: this.#locks.locks,
      reportedDeadlocks: [],
      notes: note ? [note] : []
    };
    this.#dumps.push(this.#dump);
  }

  #open(id: string, reason: string, times: number): void {
    this.#close();
    // The same goroutine again: another dump begins.
    if (!this.#dump || (id !== '' && this.#seen.has(id))) this.#begin(this.#note);
    this.#note = '';
    this.#seen.add(id);
    const [state, ...more] = reason.split(', ');
    const minutes = more.map((part) => /^(\d+) minutes$/.exec(part)).find(Boolean);
    this.#times = id === '' ? Math.min(times, this.#room) : 1;
    if (id === '') this.#room -= this.#times;
    if (this.#times < times)
      this.#warnings.add('group-cut', `A group names ${times} goroutines; ${this.#times} of them are shown.`);
    this.#thread = {
      ...bareThread(id ? `goroutine ${id}` : 'goroutine', id),
      state,
      mode: state === '' ? 'unknown' : modeOfState(state),
      system: /^(?:GC |finalizer|force gc|scavenge|runfinq)/.test(state),
      // How long it waits already: Go tells it from a minute on.
      elapsedMs: minutes ? Number(minutes[1]) * 60_000 : null
    };
  }

  #close(): void {
    const thread = this.#thread;
    this.#thread = null;
    this.#call = '';
    if (!thread) return;
    thread.frames = Int32Array.from(this.#stack);
    this.#stack = [];
    if (thread.mode === 'unknown') thread.mode = modeOfDoing(doingOf(this.#frames.frames, thread.frames));
    if (thread.mode === 'running' || thread.mode === 'unknown') thread.waitsFor = null;
    const { threads } = this.#dump!;
    if (thread.id !== '') threads.push(thread);
    else
      for (let i = 0; i < this.#times; i++)
        threads.push({ ...thread, name: `goroutine of a group ${threads.length + 1}` });
  }

  finish(): { series: DumpSeries; warnings: Warning[] } {
    this.#close();
    const dumps = this.#dumps.filter(({ threads }) => threads.length > 0);
    if (dumps.length === 0)
      throw new EvidenceError(
        'no-threads',
        'Expected Go’s goroutines (lines “goroutine 1 [running]:” and then calls), but none was found.'
      );
    return {
      series: { format: 'go-threads', frames: this.#frames.frames, dumps },
      warnings: this.#warnings.list()
    };
  }
}

/** Goroutines that groups may stand for altogether: wrong counts must not fill the memory. */
const MAX_ALIKE = 1_000_000;

/** @param line the call and its place, one under the other. */
function goFrame(line: string): ThreadFrame {
  const [name, place] = line.split('\n');
  const colon = place.lastIndexOf(':');
  const file = place.slice(0, colon);
  return { name, file, line: Number(place.slice(colon + 1)), column: 0, ...whoseGo(name, file) };
}
