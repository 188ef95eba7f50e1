import { parentPort, workerData, type MessagePort } from 'node:worker_threads';
import type { InStatement } from '@libsql/client';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { StatementGroup } from '@tromix/core/calls/statement-log/model';
import { TIME_RANGE } from '@tromix/core/trace/time-range';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { decodeMetricsJson, decodeMetricsProtobuf } from '@tromix/core/formats/otlp/metrics';
import { decodeLogsJson, decodeLogsProtobuf } from '@tromix/core/formats/otlp/logs';
import { askAt, RemoteDatabase } from '../db/remote';
import { yieldToReaders } from '../yield-priority';
import { DatabaseError } from '../db/database';
import { DISK_FULL, type Outcome } from './outcome';
import { leftMark } from './reading-mark';
import type { Aside, AsideKind } from './set-aside';
import { SteadyClock } from './steady-clock';
import {
  Busy,
  MAX_SERIES,
  nameOf,
  Writer,
  type Accepted,
  type Encoding,
  type EvidenceRecord,
  type WriterOptions
} from './writer';

export type WriterThreadOptions = WriterOptions & { port: MessagePort };

const TICK_MS = 250;
const SWEEP_MS = 60_000;

/** The writer behind a message port. Errors of content travel as values: they are answers, not faults. */
class WriterService {
  #writer: Writer | undefined;

  async open(): Promise<void> {
    const { port, ...options } = workerData as WriterThreadOptions;
    const left = leftMark(options.markFile);
    const writer = await Writer.open(options, new RemoteDatabase(askAt(port)), left);
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

  ingest(body: Uint8Array, encoding: Encoding, gzip: boolean, shiftUs = 0): Promise<Outcome<Accepted>> {
    return worded(() => this.#open().ingest(body, encoding, gzip, shiftUs));
  }

  /** Stores log records that name a trace; the others are counted as rejected. */
  addLogs(body: Uint8Array, encoding: Encoding, gzip: boolean): Promise<Outcome<Accepted>> {
    return worded(async () => {
      const writer = this.#open();
      const { records, rejected } = writer.decoded(body, gzip, nameOf(body), (content) =>
        encoding === 'json' ? decodeLogsJson(new TextDecoder().decode(content)) : decodeLogsProtobuf(content)
      );
      await writer.addLogs(records);
      return { spans: records.length, rejected, warnings: [], old: null };
    });
  }

  addMetrics(body: Uint8Array, encoding: Encoding, gzip: boolean): Promise<Outcome<Accepted>> {
    return worded(async () => {
      const writer = this.#open();
      const { values, others, outOfRange } = writer.decoded(body, gzip, nameOf(body), (content) =>
        encoding === 'json'
          ? decodeMetricsJson(new TextDecoder().decode(content))
          : decodeMetricsProtobuf(content)
      );
      const beyond = values.length > 0 ? await writer.addCounters(values) : 0;
      const rejected = [
        {
          reason: `its time lies outside ${TIME_RANGE}, or its value is no number of bytes`,
          count: outOfRange
        },
        { reason: 'only the memory of processes is kept of metrics', count: others },
        { reason: `more than ${MAX_SERIES} series of counters are not kept`, count: beyond }
      ].filter(({ count }) => count > 0);
      return { spans: values.length, rejected, warnings: [], old: null };
    });
  }

  settleAll(): Promise<number> {
    return this.#open().settle(undefined, true);
  }

  sweep(): Promise<number> {
    return this.#open().sweep(Date.now());
  }

  addEvidence(record: EvidenceRecord, statements: StatementGroup[] = []): Promise<void> {
    return this.#open().addEvidence(record, statements);
  }

  removeEvidence(id: string): Promise<void> {
    return this.#open().removeEvidence(id);
  }

  change(statements: InStatement[]): Promise<void> {
    return this.#open().change(statements);
  }

  keepOld(source: string): Promise<void> {
    return this.#open().keepOld(source);
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
