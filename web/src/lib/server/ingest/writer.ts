import { setImmediate as breathe } from 'node:timers/promises';
import { gunzipSync } from 'node:zlib';
import type { InStatement } from '@libsql/client';
import { getTableColumns } from 'drizzle-orm';
import { maskSpan, type MaskOptions } from '@tromix/core/calls/mask';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import { decodeTracesJson, decodeTracesProtobuf, type TraceBatch } from '@tromix/core/formats/otlp/traces';
import type { CounterValue } from '@tromix/core/formats/otlp/metrics';
import type { LogRecord } from '@tromix/core/formats/otlp/logs';
import type { StatementGroup } from '@tromix/core/calls/statement-log';
import type { Resource, Span } from '@tromix/core/trace/span';
import { bulkInsert, oneOf } from '../db/bulk';
import { DatabaseError, jsonOf, objectsOf, type Database } from '../db/database';
import { evidence } from '../db/schema';
import { bookingStatements, bookTraces } from './booker';
import { Dictionary } from './dictionary';
import { insertLogs, logRow } from './log-rows';
import { insertStatements, statementRows } from './statement-rows';
import { Sweeper, type Retention } from './sweeper';
import { attributesFrom, spansFrom, type StoredSpans } from '$lib/stored-spans';
import { SPAN_COLUMNS, spanRow, spansSelect } from './span-rows';

export interface WriterOptions {
  keepLiteralsOf: string[];
  maxInflatedBytes: number;
  settleMs: number;
  retention: Retention;
}

export type Encoding = 'json' | 'protobuf';

export interface Accepted {
  spans: number;
  rejected: { reason: string; count: number }[];
  warnings: Warning[];
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
/** Spans booked in one transaction. */
const BOOK_SLICE = 6000;
/** Spans waiting in memory beyond which those of the oldest traces are let go: booking reads them back from the store. */
const MAX_RESTING = 40_000;
/** So soon after a batch another is likely on its way: storing goes before booking. */
const BUSY_MS = 120;
/** A trace that never rests is booked after so many settle times. */
const PATIENCE = 8;

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
  readonly #resting = new Map<string, RestingTrace>();
  readonly #firstMs = new Map<string, number>();
  /** Traces whose spans are in memory, oldest first. */
  readonly #held = new Set<string>();
  #heldSpans = 0;
  /** Traces of the slices that are just being stored. */
  readonly #onTheirWay = new Set<ReadonlySet<string>>();
  #queue: Promise<unknown> = Promise.resolve();
  #settling: Promise<unknown> = Promise.resolve();
  /** Batches, and spans of theirs, that wait to be stored: they go before booking. */
  #waiting = 0;
  #arriving = 0;
  #lastBatchMs = -Infinity;
  /** Traces booked of which nobody was told yet, and the first minute they changed. */
  #untold = { traces: 0, firstMinute: Infinity };
  /** Called after traces were booked, with the first minute whose sums changed. */
  onBooked: (traces: number, firstMinute: number) => void = () => undefined;
  /** Called with what went wrong but holds nothing up. */
  onFault: (message: string) => void = () => undefined;

  private constructor(database: Database, options: WriterOptions, dictionary: Dictionary, hashKey: number) {
    this.#database = database;
    this.#options = options;
    this.#dictionary = dictionary;
    this.#sweeper = new Sweeper(database, options.retention);
    this.#mask = { hashKey, keepLiteralsOf: new Set(options.keepLiteralsOf) };
  }

  /** @param database migrated, and written by nobody else. */
  static async open(options: WriterOptions, database: Database): Promise<Writer> {
    const hashKey = await loadHashKey(database);
    const writer = new Writer(database, options, await Dictionary.load(database), hashKey);
    const pending = await database.query('SELECT trace_id FROM pending_traces');
    for (const [id] of pending.rows) writer.#rest(String(id), []);
    return writer;
  }

  /**
   * Stores a batch of OTLP traces. It is decoded at once, so that the next batch is made ready while the database stores this one.
   * @param shiftUs moves every span in time; recordings are shifted to the present with it.
   * @throws EvidenceError for content that is no OTLP; Busy when too much is waiting already.
   */
  async ingest(body: Uint8Array, encoding: Encoding, gzip: boolean, shiftUs = 0): Promise<Accepted> {
    if (this.#arriving > MAX_ARRIVING) throw new Busy();
    this.#lastBatchMs = Date.now();
    const content = this.inflated(body, gzip);
    const batch =
      encoding === 'json'
        ? decodeTracesJson(new TextDecoder().decode(content))
        : decodeTracesProtobuf(content);
    const count = batch.spans.length;
    this.#waiting++;
    this.#arriving += count;
    try {
      await this.#store(batch, shiftUs);
    } finally {
      this.#waiting--;
      this.#arriving -= count;
      this.#lastBatchMs = Date.now();
    }
    return { spans: count, rejected: batch.rejected, warnings: batch.warnings };
  }

  /** Stores OTLP log records that name a span. */
  addLogs(records: readonly LogRecord[]): Promise<void> {
    const rows = records.map(logRow);
    return this.#inTurn(() => this.#database.write([insertLogs(rows)]));
  }

  /** A counter that comes again for the same moment counts once. */
  addCounters(values: readonly CounterValue[]): Promise<void> {
    const rows = values.map(({ name, resource: { service, host, pid }, atUs, value }) => [
      name,
      service,
      host,
      pid,
      atUs,
      value
    ]);
    const columns = ['name', 'service', 'host', 'pid', 'at_us', 'value'];
    return this.#inTurn(() =>
      this.#database.write([bulkInsert('INSERT OR REPLACE', 'counters', columns, rows)])
    );
  }

  addEvidence(record: EvidenceRecord, statements: readonly StatementGroup[] = []): Promise<void> {
    return this.#inTurn(async () => {
      const columns = Object.keys(record).map((key) => EVIDENCE_COLUMNS[key as keyof EvidenceRecord].name);
      const insert: InStatement = {
        sql: `INSERT OR REPLACE INTO evidence (${columns.join(', ')}) VALUES (${columns.map(() => '?').join(', ')})`,
        args: Object.values(record)
      };
      const groups = statementRows(record.id, statements, this.#dictionary);
      await this.#commit(groups.length > 0 ? [insert, insertStatements(groups)] : [insert]);
    });
  }

  /** Runs statements of a setting somebody changed: Apdex T, keep rules, marks. */
  change(statements: InStatement[]): Promise<void> {
    return this.#inTurn(() => this.#database.write(statements));
  }

  /** Lets go of what the keep rules and the retention do not keep. @returns traces removed. */
  sweep(nowMs: number): Promise<number> {
    return this.#inTurn(() => this.#sweeper.sweep(nowMs, () => this.#waiting > 0));
  }

  /** Books the traces that have rested long enough. @param all books every trace. */
  settle(nowMs: number, all = false): Promise<number> {
    const result = this.#settling.then(() => this.#settle(nowMs, all));
    this.#settling = result.catch(() => undefined);
    return result;
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
    await this.#settling;
    await this.#queue;
    await this.#database.close();
  }

  /** One piece of work after another: a transaction never waits for another of its own process. */
  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const result = this.#queue.then(work);
    this.#queue = result.catch(() => undefined);
    return result;
  }

  /** The content of a body. @throws EvidenceError for damaged or too much of it. */
  inflated(body: Uint8Array, gzip: boolean): Uint8Array {
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
   */
  async #store(batch: TraceBatch, shiftUs: number): Promise<void> {
    const stored: Promise<void>[] = [];
    for (let at = 0; at < batch.spans.length; at += INSERT_SLICE) {
      const slice = batch.spans.slice(at, at + INSERT_SLICE).map((raw) => {
        raw.startUs += shiftUs;
        return maskSpan(raw, this.#mask);
      });
      const rows = slice.map((span) => {
        const { call } = span;
        const group = call ? this.#dictionary.callGroup(call.kind, call.fingerprint, call.verb) : null;
        return spanRow(span, this.#dictionary.resource(span.resource, span.startUs).id, group);
      });
      const ids = new Set(slice.map((span) => span.traceId));
      const statements = [
        bulkInsert('INSERT OR IGNORE', 'spans', SPAN_COLUMNS, rows),
        bulkInsert(
          'INSERT OR IGNORE',
          'pending_traces',
          ['trace_id'],
          Array.from(ids, (id) => [id])
        )
      ];
      const storing = this.#storeSlice(slice, ids, statements);
      // It may fail while the next slice is made ready; what failed is told below.
      storing.catch(() => undefined);
      stored.push(storing);
      // Lets the slice set out before the next is made ready.
      await breathe();
    }
    const failed = (await Promise.allSettled(stored)).find(({ status }) => status === 'rejected');
    if (failed) throw (failed as PromiseRejectedResult).reason;
  }

  async #storeSlice(
    slice: readonly Span[],
    ids: ReadonlySet<string>,
    statements: InStatement[]
  ): Promise<void> {
    this.#onTheirWay.add(ids);
    try {
      await this.#commit(statements);
      for (const span of slice) this.#rest(span.traceId, [span]);
    } finally {
      this.#onTheirWay.delete(ids);
    }
  }

  /** True for a trace of which spans rest, or are just being stored: it will be booked again. */
  #unsettled(traceId: string): boolean {
    if (this.#resting.has(traceId)) return true;
    for (const ids of this.#onTheirWay) if (ids.has(traceId)) return true;
    return false;
  }

  /** What the dictionary numbered goes before the rows that name it; it is put back where the transaction fails. */
  async #commit(statements: InStatement[]): Promise<void> {
    const names = this.#dictionary.takeQueued();
    try {
      await this.#database.write([...names, ...statements]);
    } catch (cause) {
      this.#dictionary.requeue(names);
      throw cause;
    }
  }

  #rest(traceId: string, spans: readonly Span[]): void {
    const now = Date.now();
    let trace = this.#resting.get(traceId);
    if (!trace) {
      trace = { spans: [], lastMs: now };
      this.#resting.set(traceId, trace);
      this.#firstMs.set(traceId, now);
    }
    trace.spans.push(...spans);
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
      await this.#completeFromStore(traces);
      const booked = bookTraces(this.#dictionary, traces);
      await before.catch(() => undefined);
      await this.#inTurn(async () => {
        const settled = booked.traceIds.filter((id) => !this.#unsettled(id));
        const { statements, firstMinute } = await bookingStatements(
          this.#database,
          this.#dictionary,
          booked,
          settled
        );
        await this.#commit(statements);
        this.#untold.traces += traces.size;
        this.#untold.firstMinute = Math.min(this.#untold.firstMinute, firstMinute);
      });
      return traces.size;
    } catch (cause) {
      if (cause instanceof DatabaseError) {
        // Nothing is lost: the traces are still marked as pending and rest again.
        for (const [id, spans] of traces) this.#rest(id, spans);
        throw cause;
      }
      return this.#bookApart(traces, cause);
    }
  }

  /** One trace that cannot be booked must not hold up the others: each goes by itself. It stays marked as pending for the next start. */
  async #bookApart(traces: Map<string, Span[]>, cause: unknown): Promise<number> {
    if (traces.size === 1) {
      const [id] = traces.keys();
      this.onFault(`Trace ${id} cannot be booked: ${String(cause)}`);
      return 0;
    }
    let booked = 0;
    for (const [id, spans] of traces) booked += await this.#book(new Map([[id, spans]]));
    return booked;
  }

  /** Traces of which more is stored than is in memory (late spans, a restart) are read back whole. */
  async #completeFromStore(traces: Map<string, Span[]>): Promise<void> {
    const ids = [...traces.keys()];
    const counts = await jsonOf<[string, number]>(
      this.#database,
      `SELECT json_group_array(json_array(id, n)) FROM
        (SELECT trace_id AS id, count(*) AS n FROM spans WHERE ${oneOf('trace_id')} GROUP BY trace_id)`,
      [JSON.stringify(ids)]
    );
    const stored = new Map(counts);
    const partial = ids.filter(
      (id) => new Set(traces.get(id)!.map((span) => span.spanId)).size !== (stored.get(id) ?? 0)
    );
    for (const id of ids) if (!stored.has(id)) traces.delete(id);
    if (partial.length === 0) return;
    const { rows } = await this.#database.query(spansSelect(oneOf('trace_id')), [JSON.stringify(partial)]);
    const found = JSON.parse(String(rows[0][0])) as StoredSpans;
    const resources = await loadResources(this.#database);
    for (const id of partial) if (traces.has(id)) traces.set(id, []);
    for (const span of spansFrom(found, resources)) traces.get(span.traceId)?.push(span);
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
  const rows = await objectsOf<Record<string, unknown>>(
    database,
    `SELECT r.id, r.key, s.name AS service, h.name AS host, l.name AS "release", r.pid, r.attributes
      FROM resources r JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id JOIN releases l ON l.id = r.release_id
      WHERE ?1 IS NULL OR r.id IN (SELECT value FROM json_each(?1))`,
    [ids ? JSON.stringify(ids) : null]
  );
  return new Map(
    rows.map((row) => [
      Number(row.id),
      {
        key: String(row.key),
        service: String(row.service),
        host: String(row.host),
        release: String(row.release),
        pid: Number(row.pid),
        attributes: attributesFrom(String(row.attributes))
      }
    ])
  );
}
