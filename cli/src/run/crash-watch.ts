import {
  closeSync,
  fstatSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readFileSync,
  readSync,
  rmSync,
  statSync
} from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { endingIn } from '@tromix/core/crashes/crash-text';
import { programOf } from '@tromix/core/crashes/node-crash';
import { MAX_STDERR, type ProcessEnd } from '@tromix/core/crashes/process-end';
import { signalOfExit, wasAskedToEnd } from '@tromix/core/crashes/signals';
import { withoutSecrets } from '@tromix/core/mask/documents';
import type { Ended } from './foreground';
import type { EvidenceSender } from './send-evidence';

/** What a process below wrote of its own end, see run/src/endings.ts. */
type Written = Partial<
  Pick<ProcessEnd, 'startedAtMs' | 'endedAtMs' | 'thrown' | 'nodeReport' | 'jvmFatalLog'>
>;

const LOOK_MS = 1000;
/** A JVM's log is some hundred kilobytes long. */
const MAX_LOG = 8 * 1024 * 1024;
/** A heap dump that did not grow for so long is whole. */
const WHOLE_MS = 3000;
/** Nodes’s exit codes that tell of the runtime itself, beside those that stand for signals (Node.js documentation, "Exit codes"). */
const RUNTIME_FAILED = [5, 6, 7, 13];

/** Gathers what processes leave behind as they crash, and hands it over: of the program itself, and of those it starts. */
export class CrashWatch {
  readonly folder: string;
  readonly #sender: EvidenceSender;
  readonly #command: string;
  /** Heap dumps that are still to be handed over. */
  #heapDumps: number;
  readonly #startedAtMs = Date.now();
  readonly #sent = new Set<string>();
  #child = 0;
  readonly #timer: NodeJS.Timeout;

  constructor(sender: EvidenceSender, command: readonly string[], heapDumps: number) {
    this.#heapDumps = heapDumps;
    this.folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-run-'));
    this.#sender = sender;
    this.#command = programOf(command);
    this.#timer = setInterval(() => void this.#look(), LOOK_MS);
    this.#timer.unref();
  }

  /** The process that was started: what it left is handed over once it is known how it ended. */
  set child(pid: number) {
    this.#child = pid;
  }

  async ended({ pid, code, signal, passedOn, stderr }: Ended): Promise<void> {
    const written = this.#writtenBy(pid);
    const name = signal ?? signalOfExit(code ?? 0);
    const asked = wasAskedToEnd(name) || (passedOn !== null && code !== null);
    const isCrash =
      written.nodeReport !== undefined ||
      written.jvmFatalLog !== undefined ||
      (!asked && name !== '') ||
      (code !== null && code !== 0 && !asked && (RUNTIME_FAILED.includes(code) || endingIn(stderr) !== null));
    if (isCrash)
      await this.#send({ ...written, pid, exitCode: code, signal: name, stderr: stderr.slice(-MAX_STDERR) });
    await this.#look(true);
    this.close();
  }

  close(): void {
    clearInterval(this.#timer);
    rmSync(this.folder, { recursive: true, force: true });
  }

  /** Crashes of processes that the program started, and heap dumps. */
  async #look(isLast = false): Promise<void> {
    for (const name of filesIn(this.folder)) {
      const pid = Number(/^(?:end|fatal)-(\d+)\.json$/.exec(name)?.[1]);
      if (pid > 0 && pid !== this.#child && !isRunning(pid) && !this.#sent.has(String(pid))) {
        this.#sent.add(String(pid));
        await this.#send({ ...this.#writtenBy(pid), pid, exitCode: null, signal: '', stderr: '' });
      } else if (name.endsWith('.heapsnapshot') && !this.#sent.has(name) && (isLast || this.#isWhole(name))) {
        this.#sent.add(name);
        // One that was begun and never written tells nothing.
        if (lastByte(path.join(this.folder, name)) !== '' && this.#heapDumps-- > 0)
          await this.#sender.sendHeapDump(
            path.join(this.folder, name),
            Number(/\.(\d+)\.\d+\.\d+\.heapsnapshot$/.exec(name)?.[1] ?? 0)
          );
        rmSync(path.join(this.folder, name), { force: true });
      }
    }
  }

  /** A dump that nobody has written to for a while, and that ends as one does: a busy machine lets its process rest before the first byte, too. */
  #isWhole(name: string): boolean {
    const file = path.join(this.folder, name);
    try {
      return Date.now() - statSync(file).mtimeMs > WHOLE_MS && lastByte(file) === '}';
    } catch {
      return false;
    }
  }

  #writtenBy(pid: number): Written {
    const end = readJson(path.join(this.folder, `end-${pid}.json`)) as Written | null;
    if (end) return end;
    const report = readJson(path.join(this.folder, `fatal-${pid}.json`));
    if (report !== null) return { nodeReport: report };
    // A JVM writes its log where it was started, unless it is told otherwise.
    const jvmFatalLog = readText(`hs_err_pid${pid}.log`);
    return jvmFatalLog === null ? {} : { jvmFatalLog };
  }

  #send(end: Written & Pick<ProcessEnd, 'pid' | 'exitCode' | 'signal' | 'stderr'>): Promise<void> {
    const whole: ProcessEnd = {
      processEnd: 1,
      program: this.#command,
      runtime: '',
      startedAtMs: this.#startedAtMs,
      endedAtMs: Date.now(),
      thrown: '',
      ...end
    };
    return this.#sender.sendCrash(JSON.stringify(withoutSecrets({ ...whole })), whole.pid);
  }
}

function filesIn(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch {
    return [];
  }
}

function readText(file: string): string | null {
  try {
    return statSync(file).size <= MAX_LOG ? readFileSync(file, 'utf8') : null;
  } catch {
    return null;
  }
}

function readJson(file: string): unknown {
  try {
    return JSON.parse(readFileSync(file, 'utf8'));
  } catch {
    return null;
  }
}

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
}

/** The last sign of a file that is no space; '' for an empty one. */
function lastByte(file: string): string {
  const handle = openSync(file, 'r');
  try {
    const { size } = fstatSync(handle);
    const end = Buffer.alloc(Math.min(size, 64));
    readSync(handle, end, 0, end.length, size - end.length);
    return end.toString('latin1').trimEnd().at(-1) ?? '';
  } finally {
    closeSync(handle);
  }
}
