import os from 'node:os';
import { parentPort, workerData, type MessagePort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { LoadRunRecord } from './load-run-rows';
import type { SummedProfile } from './profile-sums';
import type { Sender } from './senders';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { askAt, RemoteDatabase } from '../db/remote';
import { yieldToReaders } from '../yield-priority';
import { DatabaseError } from '../db/database';
import { DISK_FULL, type Outcome } from './outcome';
import type { PageLoad } from '@tromix/core/pages/page-load';
import { takePageParts } from './pages/take-parts';
import { leftMark } from './reading-mark';
import type { Aside, AsideKind } from './set-aside';
import { Judge } from '../watch/judge';
import { SteadyClock } from './steady-clock';
import type { ChangeName, Changes } from './changes';
import { SIGNALS, type SentBody, type SignalName } from './signals';
import { Busy, type Accepted, type Encoding } from './accepted';
import { Writer, type WriterOptions } from './writer';

export type WriterThreadOptions = WriterOptions & { port: MessagePort };

const TICK_MS = 250;
const SWEEP_MS = 60_000;
const SEAL_MS = 5000;
/** How often it is looked whether another minute is to be judged. */
const JUDGE_MS = 2000;

/** The writer behind a message port. Errors of content travel as values: they are answers, not faults. */
class WriterService {
  #writer: Writer | undefined;

  async open(): Promise<void> {
    const { port, ...options } = workerData as WriterThreadOptions;
    const left = leftMark(options.markFile);
    const database = new RemoteDatabase(askAt(port));
    const writer = await Writer.open(options, database, left);
    this.#writer = writer;
    const fault = (message: string): void => parentPort!.postMessage({ tromix: 'fault', message });
    writer.onFault = fault;
    writer.onBooked = (traces, firstMinute) =>
      parentPort!.postMessage({ tromix: 'booked', traces, firstMinute });
    const repeat = (everyMs: number, work: () => Promise<unknown>): void => {
      const tick = (): void => {
        work()
          .catch((error: unknown) => fault(`It will be tried again: ${String(error)}`))
          .finally(() => setTimeout(tick, everyMs));
      };
      tick();
    };
    repeat(TICK_MS, () => writer.settle());
    repeat(SEAL_MS, () => writer.sealCounters());
    const judge = new Judge(database, writer.store, `${os.hostname()} ${options.markFile}`);
    repeat(JUDGE_MS, async () => {
      const { judges, minutes } = await judge.judge(Date.now(), writer.behindMs());
      if (minutes > 0 || !judges) parentPort!.postMessage({ tromix: 'judged', judges });
    });
    const clock = new SteadyClock(Date.now(), performance.now());
    repeat(SWEEP_MS, () => writer.sweep(Date.now(), clock.trusts(Date.now(), performance.now())));
    writer
      .findForgotten()
      .then((found) => {
        if (found > 0) fault(`${found} stored traces had no request and no mark; they are booked now.`);
      })
      .catch((error: unknown) => fault(`Traces without a request could not be sought: ${String(error)}`));
  }

  /** Answers as soon as the thread comes to it: a thread that computes without end does not. */
  ping(): Promise<void> {
    return Promise.resolve();
  }

  /** Takes recorded traces, moved in time. */
  ingest(body: Uint8Array, encoding: Encoding, gzip: boolean, shiftUs = 0): Promise<Outcome<Accepted>> {
    return worded(() => this.#open().ingest(body, encoding, gzip, shiftUs));
  }

  /** Takes a body of a signal. */
  receive(signal: SignalName, sent: SentBody): Promise<Outcome<Accepted>> {
    return worded(() => SIGNALS[signal].take(this.#open(), sent));
  }

  /** Takes parts of page loads as browsers send them. @param receivedUs when, epoch microseconds */
  collect(sent: SentBody, receivedUs: number): Promise<Outcome<Accepted>> {
    return worded(() => takePageParts(this.#open(), sent, receivedUs));
  }

  /** Takes page loads that are known whole. */
  addPageLoads(loads: readonly PageLoad[]): Promise<void> {
    return this.#open().addPageParts(loads.map((load) => ({ load, part: 1 })));
  }

  sealCounters(): Promise<void> {
    return this.#open().sealCounters(undefined, true);
  }

  settleAll(): Promise<number> {
    return this.#open().settle(undefined, true);
  }

  sweep(): Promise<number> {
    return this.#open().sweep(Date.now());
  }

  addEvidence(...evidence: Parameters<Writer['addEvidence']>): Promise<void> {
    return this.#open().addEvidence(...evidence);
  }

  addProfileSums(profile: SummedProfile): Promise<void> {
    return this.#open().addProfileSums(profile);
  }

  senders(): Promise<Sender[]> {
    return Promise.resolve(this.#open().senders());
  }

  putLoadRun(run: LoadRunRecord): Promise<void> {
    return this.#open().putLoadRun(run);
  }

  change<N extends ChangeName>(name: N, ...args: Parameters<Changes[N]>): Promise<void> {
    return this.#open().change(name, ...args);
  }

  noteDeath(aside: Aside): Promise<boolean> {
    return this.#open().noteDeath(aside);
  }

  retry(kind: AsideKind, id: string): Promise<void> {
    return this.#open().retry(kind, id);
  }

  async close(): Promise<void> {
    await this.#writer?.close();
  }

  #open(): Writer {
    if (!this.#writer) throw new Error('The writer is not open yet.');
    return this.#writer;
  }
}
export type { WriterService };

async function worded<T>(work: () => Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (cause) {
    if (cause instanceof Busy) return { ok: false, code: 'busy', message: cause.message };
    if (cause instanceof DatabaseError && cause.full)
      return { ok: false, code: 'disk-full', message: DISK_FULL };
    if (cause instanceof DatabaseError && cause.refused)
      return {
        ok: false,
        code: 'cannot-be-stored',
        message: `The database refuses a value in it: ${cause.message}.`
      };
    if (!(cause instanceof EvidenceError)) throw cause;
    return { ok: false, code: cause.code, message: cause.message, offset: cause.offset };
  }
}

yieldToReaders();
expose(new WriterService(), nodeEndpoint(parentPort!));
