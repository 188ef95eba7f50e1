import { createHash } from 'node:crypto';
import { setImmediate as breathe } from 'node:timers/promises';
import { gunzipSync } from 'node:zlib';
import type { InStatement } from '@libsql/client';
import { getTableColumns } from 'drizzle-orm';
import { maskResource, maskSpan, type MaskOptions } from '@tromix/core/calls/mask';
import type { StatementGroup } from '@tromix/core/calls/statement-log/model';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import type { CounterValue } from '@tromix/core/formats/otlp/metrics';
import { decodeTracesJson, decodeTracesProtobuf, type TraceBatch } from '@tromix/core/formats/otlp/traces';
import { formatCount } from '@tromix/core/text/format';
import type { Resource, Span } from '@tromix/core/trace/span';
import { attributesFrom, spansFrom, type StoredSpans } from '$lib/stored-spans';
import { bulkInsert, oneOf } from '../db/bulk';
import { DatabaseError, jsonOf, jsonValue, type Database } from '../db/database';
import { evidence } from '../db/schema';
import { Once } from '../once';
import { accountFor, bookingStatements, rowsFor, type Accounted } from './booker';
import { Dictionary } from './dictionary';
import { insertLogs, logRow } from './log-rows';
import { ReadingMark, type Marked } from './reading-mark';
import { SetAside, type Aside, type AsideKind } from './set-aside';
import { SPAN_COLUMNS, spanRow, spansSelect } from './span-rows';
import { insertStatements, statementRows } from './statement-rows';
import { Sweeper, type Retention } from './sweeper';

export interface WriterOptions {
  keepLiteralsOf: string[];
  maxInflatedBytes: number;
  settleMs: number;
  retention: Retention;
  /** Spans of one trace that are accounted for; a larger one is set aside. */
  maxTraceSpans: number;
  /** Where what is being worked on is written down; '' for nowhere. */
  markFile: string;
}

export type Encoding = 'json' | 'protobuf';

/** Traces of a batch that are older than requests are kept. */
export interface OldTraces {
  traces: number;
  /** Names the batch, so that they can be kept. */
  source: string;
}

export interface Accepted {
  spans: number;
  rejected: { reason: string; count: number }[];
  warnings: Warning[];
  old: OldTraces | null;
}

/** A row of `evidence`. */
export type EvidenceRecord = typeof evidence.$inferInsert;

/** The columns of `evidence` by their names in the schema. */
const EVIDENCE_COLUMNS = getTableColumns(evidence);

/** So much is waiting to be stored that a batch is turned away for the moment. */
export class Busy extends Error {
  constructor() {
    super('More spans arrive than can be stored just now. Send the batch again a little later.');
  }
}

interface RestingTrace {
  spans: Span[];
  lastMs: number;
}

/** Spans inserted by one transaction: while the database stores one slice the next is made ready. */
const INSERT_SLICE = 1250;
/** Spans taken in but not yet stored beyond which a batch is turned away for the moment. */
const MAX_ARRIVING = 60_000;
/** Traces taken up after a restart are counted as so many spans, since theirs are not read yet. */
const UNREAD_SPANS = 30;
/** Traces booked anew at once when a service turns out to serve. */
const MAX_REBOOKED = 50_000;
/** Spans booked in one transaction. */
const BOOK_SLICE = 6000;
/** Spans waiting in memory beyond which those of the oldest traces are let go: booking reads them back from the store. */
const MAX_RESTING = 40_000;
/** So soon after a batch another is likely on its way: storing goes before booking. */
const BUSY_MS = 120;
/** A trace that never rests is booked after so many settle times. */
const PATIENCE = 8;
/** Counters of processes that are kept apart; those of further ones are turned away. */
export const MAX_SERIES = 20_000;
/** Traces looked at in one go when those without requests are sought. */
const SOUGHT = 1000;
const US_PER_DAY = 86_400_000_000;

/** Spans of a trace that are still to be booked, and the mark up to which they were read. */
interface DueTrace {
  spans: Span[];
  generation: number;
}

/** Monotonic milliseconds: how long a trace has rested does not hang on what somebody sets the clock to. */
const monotonicMs = (): number => performance.now();

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
  readonly #resting = new Map<string, RestingTrace>();
  readonly #firstMs = new Map<string, number>();
  /** Traces whose spans are in memory, oldest first. */
  readonly #held = new Set<string>();
  #heldSpans = 0;
  #queue: Promise<unknown> = Promise.resolve();
  #settling: Promise<unknown> = Promise.resolve();
  /** Batches, and spans of theirs, that wait to be stored: they go before booking. */
  #waiting = 0;
  #arriving = 0;
  #lastBatchMs = -Infinity;
  /** The mark a slice leaves on its traces: no two are alike, in this run or another. */
  #generation = Date.now() * 1000;
  /** Traces booked of which nobody was told yet, and the first minute they changed. */
  #untold = { traces: 0, firstMinute: Infinity };
  #closed = false;
  /** Counters of processes that have points: names that never end are bounded. */
  readonly #series = new Once(
    async () =>
      new Set(
        await jsonOf<string>(
          this.#database,
          'SELECT json_group_array(key) FROM (SELECT DISTINCT json_array(name, service, host, pid) AS key FROM counters)'
        )
      )
  );
  /** Called after traces were booked, with the first minute whose sums changed. */
  onBooked: (traces: number, firstMinute: number) => void = () => undefined;
  /** Called with what went wrong but holds nothing up. */
  onFault: (message: string) => void = () => undefined;

  private constructor(
    database: Database,
    options: WriterOptions,
    dictionary: Dictionary,
    setAside: SetAside,
    hashKey: number
  ) {
    this.#database = database;
    this.#options = options;
    this.#dictionary = dictionary;
    this.#setAside = setAside;
    this.#sweeper = new Sweeper(database, options.retention);
    this.#mark = new ReadingMark(options.markFile);
    this.#mask = { hashKey, keepLiteralsOf: new Set(options.keepLiteralsOf) };
  }

  /**
   * @param database migrated, and written by nobody else.
   * @param left what the writer before this one died of, where it did.
   */
  static async open(options: WriterOptions, database: Database, left: Marked | null = null): Promise<Writer> {
    const hashKey = await loadHashKey(database);
    const setAside = await SetAside.load(database);
    if (left) await setAside.note({ ...left, name: left.id, reason: DIED[left.kind] });
    const writer = new Writer(database, options, await Dictionary.load(database), setAside, hashKey);
    const pending = await jsonOf<string>(database, 'SELECT json_group_array(trace_id) FROM pending_traces');
    for (const id of pending) writer.#rest(id, []);
    return writer;
  }

  /**
   * Stores a batch of OTLP traces. It is decoded at once, so that the next batch is made ready while the database stores this one.
   * @param shiftUs moves every span in time; recordings are shifted to the present with it.
   * @throws EvidenceError for content that is no OTLP; Busy when too much is waiting already.
   */
  async ingest(body: Uint8Array, encoding: Encoding, gzip: boolean, shiftUs = 0): Promise<Accepted> {
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
    } finally {
      this.#waiting--;
      this.#arriving -= count;
      this.#lastBatchMs = monotonicMs();
    }
    const { days, graceMinutes } = this.#options.retention;
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
      old: old > 0 ? { traces: old, source: id } : null
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
    return this.#mark.during('batch', id, () => read(this.#inflated(body, gzip)));
  }

  /** Stores OTLP log records that name a span. */
  addLogs(records: readonly LogRecord[]): Promise<void> {
    const rows = records.map((record) => logRow(record, this.#mask.hashKey));
    return this.#inTurn(() => this.#database.write([insertLogs(rows)]));
  }

  /** A counter that comes again for the same moment counts once. @returns values turned away, since there are too many series. */
  async addCounters(values: readonly CounterValue[]): Promise<number> {
    const series = await this.#series.get();
    const rows: unknown[][] = [];
    for (const { name, resource, atUs, value } of values) {
      const { service, host, pid } = maskResource(resource, this.#mask);
      const key = JSON.stringify([name, service, host, pid]);
      if (!series.has(key) && series.size >= MAX_SERIES) continue;
      series.add(key);
      rows.push([name, service, host, pid, atUs, value]);
    }
    const columns = ['name', 'service', 'host', 'pid', 'at_us', 'value'];
    await this.#inTurn(() =>
      this.#database.write([bulkInsert('INSERT OR REPLACE', 'counters', columns, rows)])
    );
    return values.length - rows.length;
  }

  addEvidence(record: EvidenceRecord, statements: readonly StatementGroup[] = []): Promise<void> {
    return this.#inTurn(async () => {
      const columns = Object.keys(record).map((key) => EVIDENCE_COLUMNS[key as keyof EvidenceRecord].name);
      const insert: InStatement = {
        sql: `INSERT OR REPLACE INTO evidence (${columns.join(', ')}) VALUES (${columns.map(() => '?').join(', ')})`,
        args: Object.values(record)
      };
      const groups = await statementRows(this.#database, record.id, statements, this.#dictionary);
      await this.#database.write(groups.length > 0 ? [insert, insertStatements(groups)] : [insert]);
    });
  }

  /** Runs statements of a setting somebody changed: Apdex T, keep rules, marks. */
  change(statements: InStatement[]): Promise<void> {
    return this.#inTurn(() => this.#database.write(statements));
  }

  /** Traces that came when they were too old to be kept stay for good. @param source the batch they came in. */
  keepOld(source: string): Promise<void> {
    return this.change([{ sql: 'UPDATE old_traces SET keep = 1 WHERE source = ?', args: [source] }]);
  }

  /** Notes what ended a thread. @returns whether it is set aside now. */
  noteDeath(aside: Aside): Promise<boolean> {
    return this.#setAside.note(aside);
  }

  /** Tries something again that was set aside. */
  async retry(kind: AsideKind, id: string): Promise<void> {
    const mark = kind === 'trace' ? [this.#marking([id])] : [];
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
      // Counters went for their age, perhaps: there may be room for those of new processes.
      if (this.#series.asked && (await this.#series.get()).size >= MAX_SERIES) this.#series.forget();
      return removed;
    });
  }

  /** Books the traces that have rested long enough. @param nowMs monotonic. @param all books every trace. */
  settle(nowMs = monotonicMs(), all = false): Promise<number> {
    const result = this.#settling.then(() => this.#settle(nowMs, all));
    this.#settling = result.catch(() => undefined);
    return result;
  }

  /**
   * Finds traces whose spans are stored, that have no request, and that no mark names: what an earlier version lost track of. They are
   * booked as if they had just come. @returns how many there are.
   */
  async findForgotten(): Promise<number> {
    let found = 0;
    for (let last = ''; !this.#closed;) {
      const traces = await jsonOf<[string, number]>(
        this.#database,
        `WITH RECURSIVE t(id, n) AS (
            SELECT (SELECT min(trace_id) FROM spans WHERE trace_id > ?), 1
            UNION ALL SELECT (SELECT min(trace_id) FROM spans WHERE trace_id > t.id), n + 1 FROM t
              WHERE t.id IS NOT NULL AND n < ${SOUGHT})
          SELECT json_group_array(json_array(id,
              EXISTS (SELECT 1 FROM requests r WHERE r.trace_id = t.id)
              OR EXISTS (SELECT 1 FROM background_work b WHERE b.trace_id = t.id)
              OR EXISTS (SELECT 1 FROM pending_traces p WHERE p.trace_id = t.id)
              OR EXISTS (SELECT 1 FROM set_aside a WHERE a.kind = 'trace' AND a.id = t.id AND a.aside = 1)) ORDER BY id)
            FROM t WHERE id IS NOT NULL`,
        [last]
      );
      if (traces.length === 0) break;
      last = traces[traces.length - 1][0];
      const forgotten = traces
        .filter(([id, known]) => known === 0 && !this.#resting.has(id))
        .map(([id]) => id);
      if (forgotten.length > 0) {
        await this.#inTurn(() => this.#database.write([this.#marking(forgotten)]));
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
      const { traces, firstMinute } = this.#untold;
      this.#untold = { traces: 0, firstMinute: Infinity };
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
      // Whatever fails is told once both have ended: nothing goes on behind the caller's back.
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

  /** Removes a piece of evidence from the list. Its file is the store's affair. */
  removeEvidence(id: string): Promise<void> {
    return this.#inTurn(async () => {
      await this.#database.write([
        { sql: 'DELETE FROM evidence WHERE id = ?', args: [id] },
        { sql: 'DELETE FROM statement_groups WHERE evidence_id = ?', args: [id] }
      ]);
    });
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

  /** The content of a body. @throws EvidenceError for damaged or too much of it. */
  #inflated(body: Uint8Array, gzip: boolean): Uint8Array {
    if (!gzip) return body;
    const { maxInflatedBytes } = this.#options;
    try {
      return gunzipSync(body, { maxOutputLength: maxInflatedBytes });
    } catch (cause) {
      const { code, message } = cause as NodeJS.ErrnoException;
      if (code === 'ERR_BUFFER_TOO_LARGE') {
        throw new EvidenceError(
          'inflated-too-large',
          `The body inflates to more than ${maxInflatedBytes} bytes. The limit is the setting TROMIX_MAX_INFLATED_BYTES.`
        );
      }
      if (code === 'Z_BUF_ERROR')
        throw new EvidenceError(
          'gzip-truncated',
          'The gzip body ends early. Send it again whole.',
          body.length
        );
      throw new EvidenceError(
        'gzip-damaged',
        `The body is said to be gzip but does not inflate: ${message}.`,
        0
      );
    }
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
      const statements = [bulkInsert('INSERT OR IGNORE', 'spans', SPAN_COLUMNS, rows), this.#marking(ids)];
      if (oldIds.size > 0) statements.push(oldTraces(oldIds, source));
      const storing = this.#storeSlice(slice, statements);
      // It may fail while the next slice is made ready; what failed is told below.
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

  /** Marks traces as pending, anew where they are. */
  #marking(ids: Iterable<string>): InStatement {
    return {
      sql: `INSERT INTO pending_traces (trace_id, generation) SELECT value, ?2 FROM json_each(?1) WHERE true
        ON CONFLICT (trace_id) DO UPDATE SET generation = excluded.generation`,
      args: [JSON.stringify([...ids]), ++this.#generation]
    };
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
    if (this.#setAside.has('trace', traceId)) return;
    const now = monotonicMs();
    let trace = this.#resting.get(traceId);
    if (!trace) {
      trace = { spans: [], lastMs: now };
      this.#resting.set(traceId, trace);
      this.#firstMs.set(traceId, now);
    }
    for (const span of spans) trace.spans.push(span);
    trace.lastMs = now;
    this.#heldSpans += spans.length;
    if (spans.length > 0) this.#held.add(traceId);
    while (this.#heldSpans > MAX_RESTING) this.#letGo();
  }

  /** Takes the spans of the oldest trace out of memory. They are stored, and the trace still rests. */
  #letGo(): void {
    const [oldest] = this.#held;
    const trace = this.#resting.get(oldest)!;
    this.#held.delete(oldest);
    this.#heldSpans -= trace.spans.length;
    trace.spans = [];
  }

  /** The traces to book now. While batches keep coming only those go that have waited very long. */
  #takeDue(nowMs: number, all: boolean): Map<string, Span[]> {
    const due = new Map<string, Span[]>();
    const { settleMs } = this.#options;
    const busy = this.#waiting > 0 || nowMs - this.#lastBatchMs < BUSY_MS;
    let size = 0;
    for (const [traceId, { spans, lastMs }] of this.#resting) {
      const impatient = nowMs - (this.#firstMs.get(traceId) ?? nowMs) >= settleMs * PATIENCE;
      const rested = !busy && nowMs - lastMs >= settleMs;
      if (!all && !impatient && !rested) continue;
      due.set(traceId, spans);
      this.#resting.delete(traceId);
      this.#firstMs.delete(traceId);
      if (this.#held.delete(traceId)) this.#heldSpans -= spans.length;
      size += spans.length || UNREAD_SPANS;
      if (size >= BOOK_SLICE) break;
    }
    return due;
  }

  /** @param before what is being stored must be stored first. @returns traces booked. */
  async #book(traces: Map<string, Span[]>, before: Promise<unknown> = Promise.resolve()): Promise<number> {
    try {
      const due = await this.#completeFromStore(traces);
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
        this.#untold.traces += traces.size;
        this.#untold.firstMinute = Math.min(this.#untold.firstMinute, firstMinute);
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
    await this.#inTurn(() => this.#database.write([this.#marking(ids)]));
    for (const id of ids) this.#rest(id, []);
  }

  #accountForAll(due: ReadonlyMap<string, DueTrace>): Accounted[] {
    try {
      return [...due].map(([id, { spans }]) => {
        this.#mark.on('trace', id);
        return accountFor(id, spans, this.#dictionary);
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

  /**
   * Traces of which more is stored than is in memory (late spans, a restart) are read back whole. The mark is read no later than the spans, so that
   * spans which come meanwhile leave a newer one.
   */
  async #completeFromStore(traces: Map<string, Span[]>): Promise<Map<string, DueTrace>> {
    const ids = [...traces.keys()];
    const counts = await jsonOf<[string, number, number | null]>(
      this.#database,
      `SELECT json_group_array(json_array(t.id, t.n, p.generation)) FROM
        (SELECT trace_id AS id, count(*) AS n FROM spans WHERE ${oneOf('trace_id')} GROUP BY trace_id) t
        LEFT JOIN pending_traces p ON p.trace_id = t.id`,
      [JSON.stringify(ids)]
    );
    const due = new Map<string, DueTrace>();
    const partial: string[] = [];
    for (const [id, count, generation] of counts) {
      if (count > this.#options.maxTraceSpans) {
        await this.#bookApart(new Map([[id, []]]), tooLarge(count, this.#options.maxTraceSpans));
        continue;
      }
      const known = traces.get(id)!;
      const complete = new Set(known.map((span) => span.spanId)).size === count;
      due.set(id, { spans: complete ? known : [], generation: generation ?? 0 });
      if (!complete) partial.push(id);
    }
    if (partial.length === 0) return due;
    const found = (await jsonValue(this.#database, spansSelect(oneOf('trace_id')), [
      JSON.stringify(partial)
    ])) as StoredSpans;
    const resources = await loadResources(this.#database);
    for (const span of spansFrom(found, resources)) due.get(span.traceId)?.spans.push(span);
    return due;
  }
}

async function loadHashKey(database: Database): Promise<number> {
  const fresh = Math.floor(Math.random() * 2 ** 31);
  await database.write([
    { sql: "INSERT OR IGNORE INTO settings (key, value) VALUES ('hash-key', ?)", args: [String(fresh)] }
  ]);
  const { rows } = await database.query("SELECT value FROM settings WHERE key = 'hash-key'");
  return Number(rows[0][0]);
}

/** Processes by number: those asked for, or all known. */
export async function loadResources(
  database: Database,
  ids?: readonly number[]
): Promise<Map<number, Resource>> {
  const rows = await jsonOf<[number, string, string, string, string, number, string]>(
    database,
    `SELECT json_group_array(json_array(r.id, r.key, s.name, h.name, l.name, r.pid, r.attributes))
      FROM resources r JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id JOIN releases l ON l.id = r.release_id
      WHERE ?1 IS NULL OR r.id IN (SELECT value FROM json_each(?1))`,
    [ids ? JSON.stringify(ids) : null]
  );
  return new Map(
    rows.map(([id, key, service, host, release, pid, attributes]) => [
      id,
      { key, service, host, release, pid, attributes: attributesFrom(attributes) }
    ])
  );
}

/** What the name of a batch is worked out of: its beginning and its end, bytes each. */
const NAMED_BY = 64 * 1024;

/** A name for a body, equal for equal ones. */
export function nameOf(body: Uint8Array): string {
  return createHash('sha256')
    .update(body.subarray(0, NAMED_BY))
    .update(body.subarray(Math.max(0, body.length - NAMED_BY)))
    .update(String(body.length))
    .digest('hex')
    .slice(0, 32);
}

const tooLarge = (spans: number, most: number): Error =>
  new Error(
    `It has ${formatCount(spans)} spans; more than ${formatCount(most)} are not accounted for. The limit is the setting TROMIX_MAX_TRACE_SPANS.`
  );

const DIED: Record<Marked['kind'], string> = {
  trace: 'Accounting for it ended the thread that does so, or the whole server.',
  batch: 'Reading it ended the thread that does so, or the whole server.'
};

const oldTraces = (ids: Iterable<string>, source: string): InStatement => ({
  sql: `INSERT INTO old_traces (trace_id, received_at_us, source, keep) SELECT value, ?2, ?3, 0 FROM json_each(?1) WHERE true
    ON CONFLICT (trace_id) DO UPDATE SET received_at_us = excluded.received_at_us, source = excluded.source`,
  args: [JSON.stringify([...ids]), Date.now() * 1000, source]
});
