import { parentPort, workerData } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import type { Outcome } from './outcome';
import { Writer, type Accepted, type Encoding, type EvidenceRecord, type WriterOptions } from './writer';

const TICK_MS = 250;

/** The writer behind a message port. Errors of content travel as values: they are answers, not faults. */
class WriterService {
  #writer: Writer | undefined;

  async open(): Promise<void> {
    const writer = await Writer.open(workerData as WriterOptions);
    this.#writer = writer;
    const fault = (message: string): void => parentPort!.postMessage({ tromix: 'fault', message });
    writer.onFault = fault;
    writer.onBooked = (traces) => parentPort!.postMessage({ tromix: 'booked', traces });
    const tick = (): void => {
      writer
        .settle(Date.now())
        .catch((error: unknown) => fault(`It will be tried again: ${String(error)}`))
        .finally(() => setTimeout(tick, TICK_MS));
    };
    tick();
  }

  async ingest(body: Uint8Array, encoding: Encoding, gzip: boolean, shiftUs = 0): Promise<Outcome<Accepted>> {
    try {
      return { ok: true, value: await this.#open().ingest(body, encoding, gzip, shiftUs) };
    } catch (cause) {
      if (!(cause instanceof EvidenceError)) throw cause;
      return { ok: false, code: cause.code, message: cause.message, offset: cause.offset };
    }
  }

  settleAll(): Promise<number> {
    return this.#open().settle(Date.now(), true);
  }

  addEvidence(record: EvidenceRecord): Promise<void> {
    return this.#open().addEvidence(record);
  }

  removeEvidence(id: string): Promise<void> {
    return this.#open().removeEvidence(id);
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

expose(new WriterService(), nodeEndpoint(parentPort!));
