import { setImmediate as breathe } from 'node:timers/promises';
import { gunzipSync } from 'node:zlib';
import { LibsqlError, type Client, type InStatement } from '@libsql/client';
import { drizzle } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { maskSpan, type MaskOptions } from '@tromix/core/calls/mask';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import { decodeTracesJson, decodeTracesProtobuf, type TraceBatch } from '@tromix/core/formats/otlp/traces';
import type { Resource, Span } from '@tromix/core/trace/span';
import { bulkInsert, oneOf } from '../db/bulk';
import { openDatabase } from '../db/client';
import { evidence } from '../db/schema';
import { bookTraces } from './booker';
import { Dictionary } from './dictionary';
import { attributesFrom, spanFrom, type StoredSpan } from '$lib/stored-span';
import { SPAN_COLUMNS, SPAN_SELECT, spanRow } from './span-rows';

export interface WriterOptions {
  databaseUrl: string;
  migrationsFolder: string;
  keepLiteralsOf: string[];
  maxInflatedBytes: number;
  settleMs: number;
}

export type Encoding = 'json' | 'protobuf';

export interface Accepted {
  spans: number;
  rejected: { reason: string; count: number }[];
  warnings: Warning[];
}

/** A row of `evidence`. */
export type EvidenceRecord = typeof evidence.$inferInsert;

interface RestingTrace {
  spans: Span[];
  lastMs: number;
}

const CACHE_KIB = 65_536;
/** Spans inserted by one statement. */
const INSERT_SLICE = 5000;
/** Spans booked in one transaction. */
const BOOK_SLICE = 6000;
/** Spans waiting in memory beyond which the oldest traces are booked without rest. */
const MAX_RESTING = 150_000;
/** So soon after a batch another is likely on its way: storing goes before booking. */
const BUSY_MS = 120;
/** A trace that never rests is booked after so many settle times. */
const PATIENCE = 8;

/**
 * The one writer of the database. Spans are committed before a batch is acknowledged; traces are booked when no span
 * of theirs has come for a while, and booked again when late ones do. What was committed but not booked is taken up at the next start.
 */
export class Writer {
  readonly #client: Client;
  readonly #options: WriterOptions;
  readonly #mask: MaskOptions;
  readonly #dictionary: Dictionary;
  readonly #resting = new Map<string, RestingTrace>();
  readonly #firstMs = new Map<string, number>();
  #restingSpans = 0;
  #queue: Promise<unknown> = Promise.resolve();
  /** Batches that wait to be stored: they go before booking. */
  #waiting = 0;
  #lastBatchMs = -Infinity;
  /** Called after traces were booked. */
  onBooked: (traces: number) => void = () => undefined;
  /** Called with what went wrong but holds nothing up. */
  onFault: (message: string) => void = () => undefined;

  private constructor(client: Client, options: WriterOptions, dictionary: Dictionary, hashKey: number) {
    this.#client = client;
    this.#options = options;
    this.#dictionary = dictionary;
    this.#mask = { hashKey, keepLiteralsOf: new Set(options.keepLiteralsOf) };
  }

  static async open(options: WriterOptions): Promise<Writer> {
    const client = openDatabase(options.databaseUrl);
    if (options.databaseUrl.startsWith('file:')) {
      await client.execute('PRAGMA journal_mode = WAL');
      // Speeds up the first connection; later ones of the pool begin with the default again.
      await client.execute(`PRAGMA cache_size = -${CACHE_KIB}`);
    }
    await migrate(drizzle(client), { migrationsFolder: options.migrationsFolder });
    const hashKey = await loadHashKey(client);
    const writer = new Writer(client, options, await Dictionary.load(client), hashKey);
    const pending = await client.execute('SELECT trace_id FROM pending_traces');
    for (const row of pending.rows) writer.#rest(String(row[0]), []);
    return writer;
  }

  /**
   * Stores a batch of OTLP traces.
   * @param shiftUs moves every span in time; recordings are shifted to the present with it.
   * @throws EvidenceError for content that is no OTLP.
   */
  ingest(body: Uint8Array, encoding: Encoding, gzip: boolean, shiftUs = 0): Promise<Accepted> {
    this.#waiting++;
    return this.#inTurn(async () => {
      this.#waiting--;
      this.#lastBatchMs = Date.now();
      const content = gzip ? this.#inflate(body) : body;
      const batch =
        encoding === 'json'
          ? decodeTracesJson(new TextDecoder().decode(content))
          : decodeTracesProtobuf(content);
      await this.#store(batch, shiftUs);
      return { spans: batch.spans.length, rejected: batch.rejected, warnings: batch.warnings };
    });
  }

  addEvidence(record: EvidenceRecord): Promise<void> {
    return this.#inTurn(async () => {
      const insert = drizzle(this.#client).insert(evidence).values(record);
      await insert.onConflictDoUpdate({ target: evidence.id, set: record });
    });
  }

  /** Books the traces that have rested long enough. @param all books every trace. */
  settle(nowMs: number, all = false): Promise<number> {
    return this.#inTurn(async () => {
      let booked = 0;
      for (;;) {
        const due = this.#takeDue(nowMs, all);
        if (due.size === 0) break;
        booked += await this.#book(due);
        await breathe();
        if (this.#waiting > 0 && !all && this.#restingSpans < MAX_RESTING) break;
      }
      if (booked > 0) this.onBooked(booked);
      return booked;
    });
  }

  /** Removes a piece of evidence from the list. Its file is the store's affair. */
  removeEvidence(id: string): Promise<void> {
    return this.#inTurn(async () => {
      await this.#client.execute({ sql: 'DELETE FROM evidence WHERE id = ?', args: [id] });
    });
  }

  async close(): Promise<void> {
    await this.#queue;
    this.#client.close();
  }

  /** One piece of work after another: a transaction never waits for another of its own process. */
  #inTurn<T>(work: () => Promise<T>): Promise<T> {
    const result = this.#queue.then(work);
    this.#queue = result.catch(() => undefined);
    return result;
  }

  #inflate(body: Uint8Array): Uint8Array {
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

  async #store(batch: TraceBatch, shiftUs: number): Promise<void> {
    const spans = batch.spans.map((raw) => {
      raw.startUs += shiftUs;
      return maskSpan(raw, this.#mask);
    });
    for (let at = 0; at < spans.length; at += INSERT_SLICE) {
      const slice = spans.slice(at, at + INSERT_SLICE);
      const rows = slice.map((span) => {
        const group = span.call ? this.#dictionary.callGroup(span.call) : null;
        return spanRow(span, this.#dictionary.resource(span.resource, span.startUs).id, group);
      });
      const pending = [...new Set(slice.map((span) => span.traceId))].map((id) => [id]);
      const names = this.#dictionary.takeQueued();
      await this.#commit(names, [
        bulkInsert('INSERT OR IGNORE', 'spans', SPAN_COLUMNS, rows, ['attributes', 'events']),
        bulkInsert('INSERT OR IGNORE', 'pending_traces', ['trace_id'], pending)
      ]);
      for (const span of slice) this.#rest(span.traceId, [span]);
      if (spans.length > INSERT_SLICE) await breathe();
    }
  }

  async #commit(names: InStatement[], statements: InStatement[]): Promise<void> {
    try {
      await this.#client.batch([...names, ...statements], 'write');
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
    this.#restingSpans += spans.length;
  }

  /** The traces to book now. While batches keep coming only those go that have waited very long, or that memory has no room for. */
  #takeDue(nowMs: number, all: boolean): Map<string, Span[]> {
    const due = new Map<string, Span[]>();
    const { settleMs } = this.#options;
    const busy = nowMs - this.#lastBatchMs < BUSY_MS;
    let size = 0;
    for (const [traceId, { spans, lastMs }] of this.#resting) {
      const impatient = nowMs - (this.#firstMs.get(traceId) ?? nowMs) >= settleMs * PATIENCE;
      const rested = !busy && nowMs - lastMs >= settleMs;
      if (!all && !impatient && !rested && this.#restingSpans <= MAX_RESTING) continue;
      due.set(traceId, spans);
      this.#resting.delete(traceId);
      this.#firstMs.delete(traceId);
      this.#restingSpans -= spans.length;
      size += spans.length;
      if (size >= BOOK_SLICE) break;
    }
    return due;
  }

  async #book(traces: Map<string, Span[]>): Promise<number> {
    try {
      await this.#completeFromStore(traces);
      const statements = await bookTraces(this.#client, this.#dictionary, traces);
      await this.#commit(this.#dictionary.takeQueued(), statements);
      return traces.size;
    } catch (cause) {
      if (cause instanceof LibsqlError) {
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
    const counts = await this.#client.execute({
      sql: `SELECT trace_id, count(*) FROM spans WHERE ${oneOf('trace_id')} GROUP BY trace_id`,
      args: [JSON.stringify(ids)]
    });
    const stored = new Map(counts.rows.map((row) => [String(row[0]), Number(row[1])]));
    const partial = ids.filter(
      (id) => new Set(traces.get(id)!.map((span) => span.spanId)).size !== (stored.get(id) ?? 0)
    );
    for (const id of ids) if (!stored.has(id)) traces.delete(id);
    if (partial.length === 0) return;
    const found = await this.#client.execute({
      sql: `${SPAN_SELECT} WHERE ${oneOf('s.trace_id')}`,
      args: [JSON.stringify(partial)]
    });
    const resources = await loadResources(this.#client);
    for (const id of partial) if (traces.has(id)) traces.set(id, []);
    for (const row of JSON.parse(String(found.rows[0][0])) as StoredSpan[])
      traces.get(row[0])?.push(spanFrom(row, resources));
  }
}

async function loadHashKey(client: Client): Promise<number> {
  const fresh = Math.floor(Math.random() * 2 ** 31);
  await client.execute({
    sql: "INSERT OR IGNORE INTO settings (key, value) VALUES ('hash-key', ?)",
    args: [String(fresh)]
  });
  const { rows } = await client.execute("SELECT value FROM settings WHERE key = 'hash-key'");
  return Number(rows[0][0]);
}

/** All processes known, by number. */
export async function loadResources(client: Client): Promise<Map<number, Resource>> {
  const { rows } =
    await client.execute(`SELECT r.id, r.key, s.name AS service, h.name AS host, l.name AS release, r.pid, r.attributes
    FROM resources r JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id JOIN releases l ON l.id = r.release_id`);
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
