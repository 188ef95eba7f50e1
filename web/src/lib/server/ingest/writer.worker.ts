import { parentPort, workerData, type MessagePort } from 'node:worker_threads';
import type { InStatement } from '@libsql/client';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import type { StatementGroup } from '@tromix/core/calls/statement-log';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { decodeMetricsJson, decodeMetricsProtobuf } from '@tromix/core/formats/otlp/metrics';
import { decodeLogsJson, decodeLogsProtobuf } from '@tromix/core/formats/otlp/logs';
import { askAt, RemoteDatabase } from '../db/remote';
import { yieldToReaders } from '../yield-priority';
import type { Outcome } from './outcome';
import {
  Busy,
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
    const writer = await Writer.open(options, new RemoteDatabase(askAt(port)));
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
    repeat(TICK_MS, () => writer.settle(Date.now()));
    repeat(SWEEP_MS, () => writer.sweep(Date.now()));
  }

  ingest(body: Uint8Array, encoding: Encoding, gzip: boolean, shiftUs = 0): Promise<Outcome<Accepted>> {
    return worded(() => this.#open().ingest(body, encoding, gzip, shiftUs));
  }

  /** Stores log records that name a trace; the others are counted as rejected. */
  addLogs(body: Uint8Array, encoding: Encoding, gzip: boolean): Promise<Outcome<Accepted>> {
    return worded(async () => {
      const content = this.#open().inflated(body, gzip);
      const { records, withoutTrace } =
        encoding === 'json' ? decodeLogsJson(new TextDecoder().decode(content)) : decodeLogsProtobuf(content);
      await this.#open().addLogs(records);
      const rejected =
        withoutTrace > 0 ? [{ reason: 'log record names no trace or no time', count: withoutTrace }] : [];
      return { spans: records.length, rejected, warnings: [] };
    });
  }

  addMetrics(body: Uint8Array, encoding: Encoding, gzip: boolean): Promise<Outcome<Accepted>> {
    return worded(async () => {
      const content = this.#open().inflated(body, gzip);
      const { values } =
        encoding === 'json'
          ? decodeMetricsJson(new TextDecoder().decode(content))
          : decodeMetricsProtobuf(content);
      if (values.length > 0) await this.#open().addCounters(values);
      // Other counters are not asked for: an exporter that sends them all does nothing wrong.
      return { spans: values.length, rejected: [], warnings: [] };
    });
  }

  settleAll(): Promise<number> {
    return this.#open().settle(Date.now(), true);
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
    if (!(cause instanceof EvidenceError)) throw cause;
    return { ok: false, code: cause.code, message: cause.message, offset: cause.offset };
  }
}

yieldToReaders();
expose(new WriterService(), nodeEndpoint(parentPort!));
