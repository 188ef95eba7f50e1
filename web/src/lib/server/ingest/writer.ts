import { randomInt } from 'node:crypto';
import { setImmediate as breathe } from 'node:timers/promises';
import type { InStatement } from '@libsql/client';
import { maskSpan, type MaskOptions } from '@tromix/core/calls/mask';
import type { StatementGroup } from '@tromix/core/calls/statement-log/model';
import type { FailureIdentity } from '@tromix/core/failures/identity';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import type { MetricBatch } from '@tromix/core/formats/otlp/metric-points';
import { decodeTracesJson, decodeTracesProtobuf, type TraceBatch } from '@tromix/core/formats/otlp/traces';
import { greatestOf, leastOf } from '@tromix/core/stats/extremes';
import { formatCount } from '@tromix/core/text/format';
import type { ToldLoad } from '@tromix/core/pages/merge-parts';
import type { Span } from '@tromix/core/trace/span';
import { oneOf } from '../db/bulk';
import { DatabaseError, type Database } from '../db/database';
import { rowsOf } from '../db/rows';
import { evidence } from '../db/schema';
import { Busy, type Accepted, type Encoding } from './accepted';
import { accountFor, type Accounted } from './accounting';
import { inflated, nameOf } from './body';
import { rowsFor } from './booked-rows';
import { bookingStatements, failureStatements } from './booker';
import { CHANGES, type ChangeName, type Changes } from './changes';
import { failureOfCrash } from './crash-rows';
import { CounterStore, type CounterAnswer } from './counters/counter-store';
import { takeEarlierCounters } from './counters/earlier';
import { Dictionary } from './dictionary';
import { putLoadRunRow, tracesNotYetOf, type LoadRunRecord } from './load-run-rows';
import { failuresOfLogs, insertLogs, maskLog, notYetStored } from './log-rows';
import { forgottenTraces, oldTraces, pendingIds, PendingMarks, storedTraces } from './pending';
import { PageBook } from './pages/page-book';
import { ProfileSums, type SummedProfile } from './profile-sums';
import { ReadingMark, type Marked } from './reading-mark';
import { monotonicMs, RestingTraces } from './resting-traces';
import { Senders, type Sender } from './senders';
import { SetAside, type Aside, type AsideKind } from './set-aside';
import { SourceMaps } from './source-maps';
import { spanRow, SPANS } from './span-rows';
import { insertStatements, statementRows } from './statement-rows';
import { completeFromStore, type DueTrace } from './stored-spans';
import { Sweeper, type Retention } from './sweeper';

export interface WriterOptions {
  keepLiteralsOf: string[];
  maxInflatedBytes: number;
  /** Where source maps of built files are looked for. */
  sourceFolders: readonly string[];
  settleMs: number;
  retention: Retention;
  /** Spans of one trace that are accounted for; a larger one is set aside. */
  maxTraceSpans: number;
  /** Where what is being worked on is written down; '' for nowhere. */
  markFile: string;
}

/** A row of `evidence`. */
export type EvidenceRecord = typeof evidence.$inferInsert;

const EVIDENCE = rowsOf(evidence);

/** Spans inserted by one transaction: while the database stores one slice the next is made ready. */
const INSERT_SLICE = 1250;
/** Spans taken in but not yet stored beyond which a batch is turned away for the moment. */
const MAX_ARRIVING = 60_000;
/** Traces booked anew at once when a service turns out to serve. */
const MAX_REBOOKED = 50_000;
/** So soon after a batch another is likely on its way: storing goes before booking. */
const BUSY_MS = 120;
const US_PER_DAY = 86_400_000_000;

/**
 * The one writer of the database. Spans are committed before a batch is acknowledged; traces are booked when no span
 * of theirs has come for a while, and booked again when late ones do. What was committed but not booked is taken up at the next start.
 */
export class Writer {
  readonly #database: Database;
  readonly #options: WriterOptions;
  readonly #mask: MaskOptions;
  readonly #dictionary: Dictionary;
  readonly #sweeper: Sweeper;
  readonly #setAside: SetAside;
  readonly #mark: ReadingMark;
  readonly #pending = new PendingMarks();
  readonly #resting: RestingTraces;
  readonly #counters: CounterStore;
  readonly #senders = new Senders();
  readonly #maps: SourceMaps;
  readonly #pages: PageBook;
  readonly #profileSums: ProfileSums;
  #queue: Promise<unknown> = Promise.resolve();
  #settling: Promise<unknown> = Promise.resolve();
  /** Batches, and spans of theirs, that wait to be stored: they go before booking. */
  #waiting = 0;
  #arriving = 0;
  #lastBatchMs = -Infinity;
  /** Traces booked and not announced yet, and the first minute they changed. */
  #unannounced = { traces: 0, firstMinute: Infinity };
  #closed = false;
  /** Called after traces were booked, with the first minute whose sums changed. */
  onBooked: (traces: number, firstMinute: number) => void = () => undefined;
  /** Called with what went wrong but holds nothing up. */
  onFault: (message: string) => void = () => undefined;

  private constructor(
    database: Database,
    options: WriterOptions,
    dictionary: Dictionary,
    pages: PageBook,
    setAside: SetAside,
    hashKey: number
  ) {
    this.#database = database;
    this.#options = options;
    this.#dictionary = dictionary;
    this.#pages = pages;
    this.#profileSums = new ProfileSums(database, dictionary);
    this.#setAside = setAside;
    this.#sweeper = new Sweeper(database, options.retention);
    this.#mark = new ReadingMark(options.markFile);
    this.#mask = { hashKey, keepLiteralsOf: new Set(options.keepLiteralsOf) };
    this.#resting = new RestingTraces(options.settleMs);
    this.#counters = new CounterStore(database, this.#mask, options.retention.counterDays);
    this.#maps = new SourceMaps(options.sourceFolders);
  }

  /**
   * @param database migrated, and written by nobody else.
   * @param left what the writer before this one died of, where it did.
   */
  static async open(options: WriterOptions, database: Database, left: Marked | null = null): Promise<Writer> {
    const hashKey = await loadHashKey(database);
    const setAside = await SetAside.load(database);
    if (left) await setAside.note({ ...left, name: left.id, reason: DIED[left.kind] });
    const [dictionary, pages] = [await Dictionary.load(database), await PageBook.open(database)];
    const writer = new Writer(database, options, dictionary, pages, setAside, hashKey);
    for (const id of await pendingIds(database)) writer.#rest(id, []);
    await writer.#counters.open();
    await takeEarlierCounters(database, (batch) => writer.#counters.add(batch, Date.now(), 0));
    return writer;
  }

  /**
   * Stores a batch of OTLP traces. It is decoded at once, so that the next batch is made ready while the database stores this one.
   * @param shiftUs moves every span in time; recordings are shifted to the present with it.
   * @param from a `process` sends its own spans; those of a `file` are of processes that may be long gone.
   * @throws EvidenceError for content that is no OTLP; Busy when too much is waiting already.
   */
  async ingest(
    body: Uint8Array,
    encoding: Encoding,
    gzip: boolean,
    shiftUs = 0,
    from: 'process' | 'file' = 'file'
  ): Promise<Accepted> {
    if (this.#arriving > MAX_ARRIVING) throw new Busy();
    this.#lastBatchMs = monotonicMs();
    const id = nameOf(body);
    const batch = this.decoded(body, gzip, id, (content) =>
      encoding === 'json'
        ? decodeTracesJson(new TextDecoder().decode(content))
        : decodeTracesProtobuf(content)
    );
    const count = batch.spans.length;
    this.#waiting++;
    this.#arriving += count;
    let old: number;
    try {
      old = await this.#store(batch, shiftUs, id);
      if (from === 'process') this.#senders.note(batch.spans, Date.now());
    } finally {
      this.#waiting--;
      this.#arriving -= count;
      this.#lastBatchMs = monotonicMs();
    }
    const { days, graceMinutes } = this.#options.retention;
    const starts = batch.spans.map(({ startUs }) => startUs);
    const times = count > 0 ? { fromUs: leastOf(starts), toUs: greatestOf(starts) } : undefined;
    const warnings = [...batch.warnings];
    if (old > 0)
      warnings.push({
        code: 'older-than-kept',
        message: `A trace is older than the ${days} days that requests are kept (TROMIX_KEEP_DAYS); it stays for ${graceMinutes} minutes, unless you keep it on the Evidence view.`,
        count: old
      });
    return {
      spans: count,
      rejected: batch.rejected,
      warnings,
      old: old > 0 ? { traces: old, source: id } : null,
      times
    };
  }

  /**
   * Reads a body of any signal. Should that end the thread, its successor knows over what: a body that does so twice is read no more.
   * @throws EvidenceError
   */
  decoded<T>(body: Uint8Array, gzip: boolean, id: string, read: (content: Uint8Array) => T): T {
    if (this.#setAside.has('batch', id))
      throw new EvidenceError(
        'set-aside',
        'Reading this very batch ended the thread that reads, twice. It is not tried again.'
      );
    return this.#mark.during('batch', id, () =>
      read(gzip ? inflated(body, this.#options.maxInflatedBytes) : body)
    );
  }

  /** Stores OTLP log records. Traces that they tell failures of are booked anew; failures outside of every trace are booked at once. */
  addLogs(records: readonly LogRecord[]): Promise<void> {
    return this.#inTurn(async () => {
      const { statements, traces } = await this.#logged(records);
      await this.#commit(statements);
      for (const id of traces) this.#rest(id, []);
    });
  }

  /** What stores some log records, and the traces that are to be booked anew. */
  async #logged(records: readonly LogRecord[]): Promise<{ statements: InStatement[]; traces: string[] }> {
    const masked = records.map((record) => maskLog(record, this.#mask, this.#dictionary));
    await this.#dictionary.learn(this.#database);
    const telling = masked.filter(({ tellsOfFailure }) => tellsOfFailure);
    const fresh = await notYetStored(this.#database, telling);
    const outside = fresh.filter(({ record }) => record.traceId === '');
    const failures = failuresOfLogs(outside, this.#dictionary);
    await this.#dictionary.learn(this.#database);
    const { statements, firstMinute } = await failureStatements(
      this.#database,
      failures.map((failure) => failure())
    );
    const traces = await storedTraces(this.#database, new Set(fresh.map(({ record }) => record.traceId)));
    if (traces.length > 0) statements.push(this.#pending.mark(traces));
    this.#announce(outside.length, firstMinute);
    return { statements: [insertLogs(masked), ...statements], traces };
  }

  /** Stores parts of page loads, whole; errors that pages tell of are failures. */
  addPageParts(parts: readonly ToldLoad[]): Promise<void> {
    return this.#inTurn(async () => {
      const { statements, errors, firstMinute } = await this.#pages.book(parts);
      const { statements: logged } = await this.#logged(errors);
      await this.#commit([...statements, ...logged]);
      this.#announce(parts.length, firstMinute);
    });
  }

  /** Notes what was booked, until it is announced. */
  #announce(count: number, firstMinute: number): void {
    this.#unannounced.traces += count;
    this.#unannounced.firstMinute = Math.min(this.#unannounced.firstMinute, firstMinute);
  }

  /** Stores points of counters. @throws Busy when too much is waiting already. */
  addCounters(batch: MetricBatch, nowMs = Date.now()): Promise<CounterAnswer> {
    return this.#counters.add(batch, nowMs);
  }

  /** Puts points of counters into the blocks of their series, where enough of them wait. @param all whatever waits */
  sealCounters(nowMs = Date.now(), all = false): Promise<void> {
    return this.#counters.seal(nowMs, all);
  }

  /** Stores a piece of evidence, with the statements of a log, or as the failure that a crash is. */
  addEvidence(
    record: EvidenceRecord,
    { statements = [], failure }: { statements?: readonly StatementGroup[]; failure?: FailureIdentity } = {}
  ): Promise<void> {
    return this.#inTurn(async () => {
      const insert = EVIDENCE.insert('INSERT OR REPLACE', [record]);
      const groups = await statementRows(this.#database, record.id, statements, this.#dictionary);
      const counted = failure ? await this.#crash(record, failure) : [];
      await this.#commit([insert, ...(groups.length > 0 ? [insertStatements(groups)] : []), ...counted]);
    });
  }

  /** A crash that comes again is counted once. */
  async #crash(record: EvidenceRecord, identity: FailureIdentity): Promise<InStatement[]> {
    const { rows } = await this.#database.query(
      "SELECT 1 FROM failures WHERE trace_id = '' AND span_id = '' AND at_span_id = ? LIMIT 1",
      [record.id]
    );
    if (rows.length > 0) return [];
    const failure = failureOfCrash(record, identity, this.#dictionary);
    await this.#dictionary.learn(this.#database);
    const { statements, firstMinute } = await failureStatements(this.#database, [failure()]);
    this.#announce(1, firstMinute);
    return statements;
  }

  /** Stores what a recording comes to. */
  addProfileSums(profile: SummedProfile): Promise<void> {
    return this.store(() => this.#profileSums.statements(profile));
  }

  /** Makes one of the named changes. */
  change<N extends ChangeName>(name: N, ...args: Parameters<Changes[N]>): Promise<void> {
    const statements = (CHANGES[name] as (...args: Parameters<Changes[N]>) => InStatement[])(...args);
    return this.write(statements);
  }

  /** Stores what something else in this thread worked out. */
  write = (statements: InStatement[]): Promise<void> => this.#inTurn(() => this.#database.write(statements));
  /** The same of what is made when its turn has come: nothing else is stored in between. */
  store = (make: () => Promise<InStatement[]>): Promise<void> =>
    this.#inTurn(async () => this.#database.write(await make()));
  /** For how long a trace has been waiting to be booked, milliseconds: far more than it rests where booking is behind. */
  behindMs = (): number => this.#resting.oldestMs(monotonicMs());

  /** Lists a load run, or changes what is listed of it. Traces of a run that came before it are booked anew, as its own. */
  putLoadRun(run: LoadRunRecord): Promise<void> {
    return this.#inTurn(async () => {
      await this.#database.write([putLoadRunRow(run)]);
      await this.#dictionary.learnRuns(this.#database);
      const known = await tracesNotYetOf(this.#database, run.key);
      if (known.length === 0) return;
      await this.#database.write([this.#pending.mark(known)]);
      for (const id of known) this.#rest(id, []);
    });
  }

  /** Notes what ended a thread. @returns whether it is set aside now. */
  noteDeath(aside: Aside): Promise<boolean> {
    return this.#setAside.note(aside);
  }

  /** Tries something again that was set aside. */
  async retry(kind: AsideKind, id: string): Promise<void> {
    const mark = kind === 'trace' ? [this.#pending.mark([id])] : [];
    await this.#setAside.forget(kind, id, mark);
    if (kind === 'trace') this.#rest(id, []);
  }

  /**
   * Lets go of what the keep rules and the retention do not keep.
   * @param trusted false while the clock cannot be trusted: then nothing goes for its age. @returns traces removed.
   */
  sweep(nowMs: number, trusted = true): Promise<number> {
    return this.#inTurn(async () => {
      const removed = await this.#sweeper.sweep(nowMs, trusted, () => this.#waiting > 0);
      await this.#counters.rollUp(nowMs, () => this.#waiting > 0);
      await this.#counters.makeRoom(nowMs);
      return removed;
    });
  }

  /** Books the traces that have rested long enough. @param nowMs monotonic. @param all books every trace. */
  settle(nowMs = monotonicMs(), all = false): Promise<number> {
    const result = this.#settling.then(() => this.#settle(nowMs, all));
    this.#settling = result.catch(() => undefined);
    return result;
  }

  /** Takes up traces that were lost track of, as if they had just come. @returns how many there are */
  async findForgotten(): Promise<number> {
    let found = 0;
    for await (const traces of forgottenTraces(this.#database)) {
      if (this.#closed) break;
      const forgotten = traces.filter((id) => !this.#resting.has(id));
      if (forgotten.length > 0) {
        await this.#inTurn(() => this.#database.write([this.#pending.mark(forgotten)]));
        for (const id of forgotten) this.#rest(id, []);
        found += forgotten.length;
      }
      await breathe();
    }
    return found;
  }

  async #settle(nowMs: number, all: boolean): Promise<number> {
    try {
      return await this.#bookDue(nowMs, all);
    } finally {
      const { traces, firstMinute } = this.#unannounced;
      this.#unannounced = { traces: 0, firstMinute: Infinity };
      if (traces > 0) this.onBooked(traces, firstMinute);
    }
  }

  /** While the database stores what was booked last, the next traces are booked, and batches are stored in between. */
  async #bookDue(nowMs: number, all: boolean): Promise<number> {
    let booked = 0;
    let storing: Promise<number> = Promise.resolve(0);
    for (;;) {
      const due = this.#takeDue(nowMs, all);
      if (due.size === 0) break;
      const next = this.#book(due, storing);
      // Whatever fails is reported once both have ended: nothing goes on behind the caller's back.
      next.catch(() => undefined);
      booked += await storing.catch(async (cause: unknown) => {
        await next.catch(() => undefined);
        throw cause;
      });
      storing = next;
      await breathe();
      if (this.#waiting > 0 && !all) break;
    }
    return booked + (await storing);
  }

  async close(): Promise<void> {
    this.#closed = true;
    await this.#settling;
    await this.#queue;
    this.#mark.close();
    await this.#database.close();
  }

  /** One piece of work after another: a transaction never waits for another of its own process. */
  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const result = this.#queue.then(work);
    this.#queue = result.catch(() => undefined);
    return result;
  }

  /**
   * Slices are handed to the database as soon as they are ready, while the next is made: it stores them in that order. They
   * touch nothing that booking reads, so they wait for no turn.
   * @returns traces that are older than requests are kept.
   */
  async #store(batch: TraceBatch, shiftUs: number, source: string): Promise<number> {
    const stored: Promise<void>[] = [];
    const old = new Set<string>();
    const oldUs = Date.now() * 1000 - this.#options.retention.days * US_PER_DAY;
    for (let at = 0; at < batch.spans.length; at += INSERT_SLICE) {
      const slice = batch.spans.slice(at, at + INSERT_SLICE).map((raw) => {
        raw.startUs += shiftUs;
        return maskSpan(raw, this.#mask);
      });
      const names = slice.map((span) => ({
        process: this.#dictionary.resource(span.resource, span.startUs),
        group: span.call
          ? this.#dictionary.callGroup(span.call.kind, span.call.fingerprint, span.call.verb)
          : null
      }));
      await this.#dictionary.learn(this.#database);
      const rows = slice.map((span, i) => spanRow(span, names[i].process.id, names[i].group?.id ?? null));
      const ids = new Set(slice.map((span) => span.traceId));
      const oldIds = new Set(slice.filter(({ startUs }) => startUs < oldUs).map((span) => span.traceId));
      for (const id of oldIds) old.add(id);
      const statements = [SPANS.insert('INSERT OR IGNORE', rows), this.#pending.mark(ids)];
      if (oldIds.size > 0) statements.push(oldTraces(oldIds, source));
      const storing = this.#storeSlice(slice, statements);
      // It may fail while the next slice is made ready; what failed is reported below.
      storing.catch(() => undefined);
      stored.push(storing);
      // Lets the slice set out before the next is made ready.
      await breathe();
    }
    const failed = (await Promise.allSettled(stored)).find(({ status }) => status === 'rejected');
    if (failed) throw (failed as PromiseRejectedResult).reason;
    return old.size;
  }

  async #storeSlice(slice: readonly Span[], statements: InStatement[]): Promise<void> {
    await this.#database.write(statements);
    for (const span of slice) this.#rest(span.traceId, [span]);
  }

  /** Who has sent spans since the writer was opened. */
  senders(): Sender[] {
    return this.#senders.list(Date.now());
  }

  /** What the dictionary noted goes with the rows; it is put back where the transaction fails. */
  async #commit(statements: InStatement[]): Promise<void> {
    const updates = this.#dictionary.takeUpdates();
    try {
      await this.#database.write([...updates, ...statements]);
    } catch (cause) {
      this.#dictionary.putBack(updates);
      throw cause;
    }
  }

  #rest(traceId: string, spans: readonly Span[]): void {
    if (!this.#setAside.has('trace', traceId)) this.#resting.add(traceId, spans);
  }

  /** The traces to book now. While batches keep coming only those go that have waited very long. */
  #takeDue(nowMs: number, all: boolean): Map<string, Span[]> {
    const busy = this.#waiting > 0 || nowMs - this.#lastBatchMs < BUSY_MS;
    return this.#resting.takeDue(nowMs, busy, all);
  }

  /** @param before what is being stored must be stored first. @returns traces booked. */
  async #book(traces: Map<string, Span[]>, before: Promise<unknown> = Promise.resolve()): Promise<number> {
    try {
      const { maxTraceSpans } = this.#options;
      const { due, tooLarge } = await completeFromStore(this.#database, traces, maxTraceSpans);
      for (const { id, spans } of tooLarge)
        await this.#bookApart(new Map([[id, []]]), tooManySpans(spans, maxTraceSpans));
      await this.#maps.load(due.values());
      const accounted = this.#accountForAll(due);
      await this.#dictionary.learn(this.#database);
      const booked = rowsFor(accounted, this.#dictionary);
      const read = new Map([...due].map(([id, { generation }]) => [id, generation]));
      await before.catch(() => undefined);
      await this.#inTurn(async () => {
        const { statements, firstMinute } = await bookingStatements(
          this.#database,
          this.#dictionary,
          booked,
          read
        );
        await this.#commit(statements);
        this.#announce(traces.size, firstMinute);
      });
      await this.#rebookRoots();
      return traces.size;
    } catch (cause) {
      if (cause instanceof DatabaseError && !cause.refused) {
        // Nothing is lost: the traces are still marked as pending and rest again.
        for (const [id, spans] of traces) this.#rest(id, spans);
        throw cause;
      }
      return this.#bookApart(traces, cause);
    }
  }

  /** Root spans that were taken for requests, until their service sent its first entry span, are booked anew. */
  async #rebookRoots(): Promise<void> {
    const began = this.#dictionary.takeBeganToServe();
    if (began.length === 0) return;
    const services = JSON.stringify(began.map(({ id }) => id));
    await this.#inTurn(() =>
      this.#database.write([{ sql: `UPDATE services SET serves = 1 WHERE ${oneOf('id')}`, args: [services] }])
    );
    const { rows } = await this.#database.query(
      `SELECT DISTINCT trace_id FROM requests WHERE by_root = 1 AND ${oneOf('service_id')} LIMIT ${MAX_REBOOKED}`,
      [services]
    );
    if (rows.length === 0) return;
    const ids = rows.map(([id]) => String(id));
    await this.#inTurn(() => this.#database.write([this.#pending.mark(ids)]));
    for (const id of ids) this.#rest(id, []);
  }

  #accountForAll(due: ReadonlyMap<string, DueTrace>): Accounted[] {
    try {
      return [...due].map(([id, trace]) => {
        this.#mark.on('trace', id);
        return accountFor(id, trace, this.#dictionary, this.#maps.mapFrame);
      });
    } finally {
      this.#mark.off();
    }
  }

  /** One trace that cannot be booked must not hold up the others: each goes by itself. It is set aside, and can be exported and tried again. */
  async #bookApart(traces: Map<string, Span[]>, cause: unknown): Promise<number> {
    if (traces.size === 1) {
      const [id] = traces.keys();
      const reason = `It cannot be accounted for. ${cause instanceof Error ? cause.message : String(cause)}`;
      await this.#setAside.note({ kind: 'trace', id, name: id, reason }, true);
      this.onFault(`Trace ${id} was set aside: ${reason}`);
      return 0;
    }
    let booked = 0;
    for (const [id, spans] of traces) booked += await this.#book(new Map([[id, spans]]));
    return booked;
  }
}

async function loadHashKey(database: Database): Promise<number> {
  const fresh = randomInt(2 ** 31);
  await database.write([
    { sql: "INSERT OR IGNORE INTO settings (key, value) VALUES ('hash-key', ?)", args: [String(fresh)] }
  ]);
  const { rows } = await database.query("SELECT value FROM settings WHERE key = 'hash-key'");
  return Number(rows[0][0]);
}

const tooManySpans = (spans: number, most: number): Error =>
  new Error(
    `It has ${formatCount(spans)} spans; more than ${formatCount(most)} are not accounted for. The limit is the setting TROMIX_MAX_TRACE_SPANS.`
  );

const DIED: Record<Marked['kind'], string> = {
  trace: 'Accounting for it ended the thread that does so, or the whole server.',
  batch: 'Reading it ended the thread that does so, or the whole server.'
};
