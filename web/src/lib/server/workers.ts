import path from 'node:path';
import { MessageChannel, Worker, type WorkerOptions } from 'node:worker_threads';
import databaseCode from './db/database.worker.ts?nodeworker';
import type { ChangeName, Changes } from './ingest/changes';
import type { Database } from './db/database';
import type { DatabaseService, DatabaseThreadOptions } from './db/database-thread';
import { GuardedReads } from './db/guarded-reads';
import { RemoteDatabase } from './db/remote';
import writerCode from './ingest/writer.worker.ts?nodeworker';
import type { WriterService } from './ingest/writer.worker';
import type { WriterThreadOptions } from './ingest/writer.worker';
import heapCode from './heap/heap.worker.ts?nodeworker';
import type { HeapReader } from './heap/heap.worker';
import indexerCode from './heap/indexer.worker.ts?nodeworker';
import type { HeapIndexer } from './heap/indexer.worker';
import examinerCode from './evidence/examiner.worker.ts?nodeworker';
import type { EvidenceExaminer } from './evidence/examiner.worker';
import evidenceReaderCode from './assistant/evidence-reader.worker.ts?nodeworker';
import type { EvidenceReader } from './assistant/evidence-reader.worker';
import condenserCode from './profiles/condenser.worker.ts?nodeworker';
import type { Condenser } from './profiles/condenser.worker';
import { startSending } from '@tromix/load/sending-thread';
import type { SenderData } from '@tromix/load/sender-thread';
import loadKeeperCode from './load/keeper.worker.ts?nodeworker';
import type { LoadKeeper } from './load/keeper.worker';
import senderCode from './load/sender.worker.ts?nodeworker';
import { publish } from './live';
import { forgetSince } from './queries/remembered';
import recorderCode from './record/recorder.worker.ts?nodeworker';
import type { RecorderService } from './record/recorder.worker';
import { settings } from './settings';
import { judging } from './watch/judging';
import { Thread } from './thread';
import { Turns } from './turns';

/** Young objects get less room than Node would give each thread by itself: several threads share one machine. */
const MAX_YOUNG_MB = 24;
/** Below 1 GiB V8 lets a heap grow in small steps before it collects, above it fourfold. */
const MAX_OLD_MB = 768;

const start = (code: string, options: WorkerOptions): Worker => {
  const resourceLimits = {
    maxYoungGenerationSizeMb: MAX_YOUNG_MB,
    maxOldGenerationSizeMb: MAX_OLD_MB,
    ...options.resourceLimits
  };
  const thread = new Worker(code, { eval: true, ...options, resourceLimits });
  // A thread must not keep a server alive that is to stop.
  thread.unref();
  return thread;
};

/** A thread that holds a database connection. @param port where it is asked; null for its own port. */
function databaseThread(name: string, migrationsFolder: string, port: DatabaseThreadOptions['port']): Worker {
  const { databaseUrl } = settings();
  const workerData: DatabaseThreadOptions = { databaseUrl, migrationsFolder, port };
  return start(databaseCode, { workerData, transferList: port ? [port] : [], name });
}

/** The writer computes in one thread while its database works in another; if either dies, both begin anew. */
const writer = new Thread<WriterService>('writer', () => {
  const {
    dataFolder,
    migrationsFolder,
    keepLiteralsOf,
    maxInflatedBytes,
    sourceFolders,
    settleMs,
    retention,
    maxTraceSpans
  } = settings();
  const { port1, port2 } = new MessageChannel();
  const database = databaseThread('writer database', migrationsFolder, port1);
  const workerData: WriterThreadOptions = {
    keepLiteralsOf,
    maxInflatedBytes,
    sourceFolders,
    settleMs,
    retention,
    maxTraceSpans,
    markFile: path.join(dataFolder, 'reading'),
    port: port2
  };
  const thread = start(writerCode, { workerData, transferList: [port2], name: 'writer' });
  thread.once('exit', () => void database.terminate());
  database.once('error', (error) => {
    console.error('The database thread of the writer ended.', error);
    void thread.terminate();
  });
  thread.on(
    'message',
    (message: { tromix?: string; message?: string; firstMinute?: number; judges?: boolean }) => {
      if (message.tromix === 'booked') {
        forgetSince(message.firstMinute ?? 0);
        publish('booked');
      }
      if (message.tromix === 'judged') {
        judging.isHere = message.judges === true;
        publish('watches');
      }
      if (message.tromix === 'fault') console.error(`Booking failed. ${message.message}`);
    }
  );
  return { thread, ready: (service) => service.open() };
});

const reading = new Thread<DatabaseService>('reader', () => ({
  thread: databaseThread('reader', '', null),
  ready: () => Promise.resolve()
}));
const readOnly = new GuardedReads(new RemoteDatabase((work) => reading.call(work)));

/** The connection for reading, in its own thread: a long read holds up neither the server nor the writer. */
export const readerDatabase = (): Database => readOnly;

const examiner = new Thread<EvidenceExaminer>('examiner', () => ({
  thread: start(examinerCode, { name: 'examiner', resourceLimits: { maxOldGenerationSizeMb: 4096 } }),
  ready: () => Promise.resolve()
}));

const recorder = new Thread<RecorderService>('recorder', () => ({
  thread: start(recorderCode, { name: 'recorder', resourceLimits: { maxOldGenerationSizeMb: 2048 } }),
  ready: () => Promise.resolve()
}));

const heapIndexer = new Thread<HeapIndexer>('heap indexer', () => ({
  thread: start(indexerCode, { name: 'heap indexer', resourceLimits: { maxOldGenerationSizeMb: 4096 } }),
  ready: () => Promise.resolve()
}));

const heapReader = new Thread<HeapReader>('heap reader', () => ({
  thread: start(heapCode, { name: 'heap reader', resourceLimits: { maxOldGenerationSizeMb: 4096 } }),
  ready: () => Promise.resolve()
}));

const evidenceReader = new Thread<EvidenceReader>('evidence reader', () => ({
  thread: start(evidenceReaderCode, {
    name: 'evidence reader',
    resourceLimits: { maxOldGenerationSizeMb: 2048 }
  }),
  ready: () => Promise.resolve()
}));

const condenser = new Thread<Condenser>('condenser', () => ({
  thread: start(condenserCode, { name: 'condenser', resourceLimits: { maxOldGenerationSizeMb: 2048 } }),
  ready: () => Promise.resolve()
}));

const loadKeeper = new Thread<LoadKeeper>('load keeper', () => {
  const thread = start(loadKeeperCode, {
    name: 'load keeper',
    resourceLimits: { maxOldGenerationSizeMb: 2048 }
  });
  // The run's own spans are taken in like everybody's. Where too much is waiting they are left out: the samples are kept all the same.
  thread.on('message', (message: { tromix?: string; body?: Uint8Array }) => {
    if (message.tromix === 'load-spans')
      void callWriter((service) => service.ingest(message.body!, 'json', false)).catch(() => undefined);
  });
  return { thread, ready: () => Promise.resolve() };
});

/** The writer is asked every so often whether it still answers. */
const WATCH_MS = 10_000;
/** One that computes for so long over one thing does so without end. */
const WRITER_ANSWERS_MS = 60_000;
/** After it died it is started again so soon. */
const AGAIN_MS = 500;

/** Looks after the writer until the server ends: one that died or no longer answers is started again, though nobody calls it. */
export function keepWriting(): void {
  const wake = (): void =>
    void callWriter(() => Promise.resolve()).catch((cause: unknown) =>
      console.error(`The writer could not be started: ${(cause as Error).message}`)
    );
  writer.onended = () => void setTimeout(wake, AGAIN_MS).unref();
  setInterval(
    () => void writer.call((service) => service.ping(), WRITER_ANSWERS_MS).catch(() => undefined),
    WATCH_MS
  ).unref();
}

/** Calls the one writer of the database. */
export const callWriter = <T>(work: (writer: WriterService) => Promise<T>): Promise<T> => writer.call(work);

/** Makes one of the named changes. */
export const change = <N extends ChangeName>(name: N, ...args: Parameters<Changes[N]>): Promise<void> =>
  callWriter((writer) => writer.change(name, ...args));

/** Files are examined one after another, so that it is known of which the thread dies. */
const examining = new Turns();

/** Calls the thread that examines uploads, in turn. @param withinMs a file that takes longer ends the thread. */
export const callExaminer = <T>(
  work: (examiner: EvidenceExaminer) => Promise<T>,
  withinMs: number
): Promise<T> => examining.take('', () => examiner.call(work, withinMs));
/** Calls the thread that reads evidence for questions without a browser. @param withinMs one that takes longer ends the thread */
export const callEvidenceReader = <T>(
  work: (reader: EvidenceReader) => Promise<T>,
  withinMs: number
): Promise<T> => evidenceReader.call(work, withinMs);
/** Calls the thread that sums recordings up. @param withinMs one that takes longer ends the thread */
export const callCondenser = <T>(work: (condenser: Condenser) => Promise<T>, withinMs: number): Promise<T> =>
  condenser.call(work, withinMs);
/** Calls the thread that records running processes. */
export const callRecorder = <T>(work: (recorder: RecorderService) => Promise<T>): Promise<T> =>
  recorder.call(work);
/** Calls the thread that keeps what load runs measure. */
export const callLoadKeeper = <T>(work: (keeper: LoadKeeper) => Promise<T>): Promise<T> =>
  loadKeeper.call(work);

/** Starts a thread that sends one load run. */
export const startSender = (data: SenderData): Worker =>
  startSending((resourceLimits) =>
    start(senderCode, {
      name: 'load sender',
      workerData: data,
      transferList: data.port ? [data.port] : [],
      resourceLimits
    })
  );

/** Calls the thread that indexes heap dumps. */
export const callHeapIndexer = <T>(work: (indexer: HeapIndexer) => Promise<T>): Promise<T> =>
  heapIndexer.call(work);
/** Calls the thread that answers questions about indexed heap dumps. */
export const callHeapReader = <T>(work: (reader: HeapReader) => Promise<T>): Promise<T> =>
  heapReader.call(work);
