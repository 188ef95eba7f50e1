import { MessageChannel, Worker, type WorkerOptions } from 'node:worker_threads';
import { wrap } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import databaseCode from './db/database.worker.ts?nodeworker';
import type { Database } from './db/database';
import { RemoteDatabase, type DatabaseThreadOptions } from './db/remote';
import writerCode from './ingest/writer.worker.ts?nodeworker';
import type { WriterService } from './ingest/writer.worker';
import type { WriterThreadOptions } from './ingest/writer.worker';
import examinerCode from './jobs/evidence.worker.ts?nodeworker';
import type { EvidenceExaminer } from './jobs/evidence.worker';
import { publish } from './live';
import { settings } from './settings';

/** A worker thread that is started by the first call, and anew by the first call after it died. */
class Thread<Service> {
  readonly #start: () => { thread: Worker; ready: (service: Service) => Promise<void> };
  #running: Promise<{ service: Service; died: Promise<never> }> | undefined;

  constructor(start: () => { thread: Worker; ready: (service: Service) => Promise<void> }) {
    this.#start = start;
  }

  /** Calls the service. A thread that dies meanwhile fails the call instead of leaving it waiting. */
  async call<T>(work: (service: Service) => Promise<T>): Promise<T> {
    const { service, died } = await (this.#running ??= this.#open());
    return Promise.race([work(service), died]);
  }

  async #open(): Promise<{ service: Service; died: Promise<never> }> {
    const { thread, ready } = this.#start();
    const died = new Promise<never>((_, reject) => {
      const end = (cause: unknown): void => {
        this.#running = undefined;
        reject(cause instanceof Error ? cause : new Error(`The thread ended with ${String(cause)}.`));
      };
      thread.once('error', end);
      thread.once('exit', end);
    });
    died.catch((error: unknown) =>
      console.error('A worker thread ended; the next call starts it again.', error)
    );
    // Every method of the services answers with a promise, so the proxy has their very type.
    const service = wrap(nodeEndpoint(thread)) as unknown as Service;
    try {
      await Promise.race([ready(service), died]);
    } catch (cause) {
      this.#running = undefined;
      await thread.terminate();
      throw cause;
    }
    return { service, died };
  }
}

/** Young objects get less room than Node would give each thread by itself: several threads share one machine. */
const MAX_YOUNG_MB = 24;

const start = (code: string, options: WorkerOptions): Worker => {
  const resourceLimits = { maxYoungGenerationSizeMb: MAX_YOUNG_MB, ...options.resourceLimits };
  const thread = new Worker(code, { eval: true, ...options, resourceLimits });
  // A thread must not keep a server alive that was told to stop.
  thread.unref();
  return thread;
};

/** A thread that holds a database connection, and this side's end of its port. */
function databaseThread(
  name: string,
  migrationsFolder: string
): { thread: Worker; port: DatabaseThreadOptions['port'] } {
  const { port1, port2 } = new MessageChannel();
  const workerData: DatabaseThreadOptions = {
    databaseUrl: settings().databaseUrl,
    migrationsFolder,
    port: port1
  };
  return { thread: start(databaseCode, { workerData, transferList: [port1], name }), port: port2 };
}

/** The writer computes in one thread while its database works in another; if either dies, both begin anew. */
const writer = new Thread<WriterService>(() => {
  const { migrationsFolder, keepLiteralsOf, maxInflatedBytes, settleMs, retention } = settings();
  const database = databaseThread('writer database', migrationsFolder);
  const workerData: WriterThreadOptions = {
    keepLiteralsOf,
    maxInflatedBytes,
    settleMs,
    retention,
    port: database.port
  };
  const thread = start(writerCode, { workerData, transferList: [database.port], name: 'writer' });
  thread.once('exit', () => void database.thread.terminate());
  database.thread.once('error', (error) => {
    console.error('The database thread of the writer ended.', error);
    void thread.terminate();
  });
  thread.on('message', (message: { tromix?: string; message?: string }) => {
    if (message.tromix === 'booked') publish('booked');
    if (message.tromix === 'fault') console.error(`Booking failed. ${message.message}`);
  });
  return { thread, ready: (service) => service.open() };
});

let reading: Database | undefined;

/** The connection for reading, in its own thread: a long read holds up neither the server nor the writer. */
export function readerDatabase(): Database {
  if (reading) return reading;
  const { thread, port } = databaseThread('reader', '');
  const database = new RemoteDatabase(port);
  const forget = (): void => {
    if (reading === database) reading = undefined;
    port.close();
  };
  thread.once('error', (error) =>
    console.error('The reading thread ended; the next read starts it again.', error)
  );
  thread.once('exit', forget);
  port.unref();
  return (reading = database);
}

const examiner = new Thread<EvidenceExaminer>(() => ({
  thread: start(examinerCode, { name: 'examiner', resourceLimits: { maxOldGenerationSizeMb: 4096 } }),
  ready: () => Promise.resolve()
}));

/** Calls the one writer of the database. */
export const callWriter = <T>(work: (writer: WriterService) => Promise<T>): Promise<T> => writer.call(work);
/** Calls the thread that examines uploads. */
export const callExaminer = <T>(work: (examiner: EvidenceExaminer) => Promise<T>): Promise<T> =>
  examiner.call(work);
