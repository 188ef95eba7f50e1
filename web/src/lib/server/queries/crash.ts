import type { Crash } from '@tromix/core/crashes/crash';
import { select, selectJson } from '../db/reader';
import { crashContent } from './crash-content';
import { evidenceOf, itemOfKind, type EvidenceItem } from './evidence';
import { writtenBefore, type StepBefore } from './failure-example';

/** A request that the process had begun and never answered: what it did is there, its own span is not. */
export interface CutOff {
  traceId: string;
  /** A request of the trace to look at; '' where none is known. */
  spanId: string;
  /** A span that it left. */
  childId: string;
  /** What it was doing last. */
  last: string;
  startUs: number;
}

/** A call that got no proper answer around the moment of the crash, from a service that asks this one. */
export interface FailedCall {
  traceId: string;
  spanId: string;
  callId: string;
  service: string;
  name: string;
  /** As 502, ECONNRESET. */
  answer: string;
  atUs: number;
}

/** Requests a minute, around a crash. */
export interface Beside {
  /** Epoch minutes of the first and after the last. */
  from: number;
  to: number;
  /** Of this service on this host, of this service elsewhere, and of other services on this host. */
  here: number[];
  elsewhere: number[];
  others: number[];
}

export interface CrashDetail {
  item: EvidenceItem<'crash'>;
  /** null where its file is not stored any more. */
  crash: Crash | null;
  before: StepBefore[];
  cutOff: CutOff[];
  failedCalls: FailedCall[];
  beside: Beside;
  /** When another process of the service began to serve on this host, epoch microseconds; null where none did. */
  servedAgainUs: number | null;
  /** Whether requests of this very process came. */
  isKnown: boolean;
  /** Dumps of the same service on the same host, around its end. */
  dumps: EvidenceItem<'heap' | 'threads'>[];
}

/** What was under way is sought so long before the end. */
const UNDER_WAY_US = 120e6;
/** Callers notice within so long. */
const NOTICED_US = 5e6;
/** Clocks of two hosts may differ by so much; what was answered earlier the process answered itself. */
const CLOCKS_US = 100_000;
const AROUND_MINUTES = 10;
const DUMPS_US = 15 * 60e6;
const MAX_TRACES = 2000;
const MAX_LISTED = 50;

export async function crashOf(id: string, nowMs: number): Promise<CrashDetail | null> {
  const item = await itemOfKind(id, 'crash');
  if (!item) return null;
  const { service, host, pid } = item;
  const atUs = item.startedAtUs ?? item.receivedAtUs;
  const processes = await processesOf(item);
  const traces = await tracesAround(atUs);
  const [crash, before, cutOff, failedCalls, beside, servedAgainUs, dumps] = await Promise.all([
    crashContent(item),
    service && host ? writtenBefore({ atUs: atUs + 1, service, host }) : { before: [] },
    cutOffIn(
      traces,
      processes.map(({ id: process }) => process)
    ),
    failedCallsIn(traces, service, atUs),
    besideOf(service, host, atUs, nowMs),
    servedAgain(service, host, pid, atUs),
    dumpsAround(item, atUs)
  ]);
  return {
    item,
    crash,
    before: before.before,
    cutOff,
    failedCalls,
    beside,
    servedAgainUs,
    isKnown: processes.some(({ served }) => served === 1),
    dumps
  };
}

/** The processes that it may be, by number, and whether they served: one where its number is known. */
async function processesOf({
  service,
  host,
  pid
}: EvidenceItem<'crash'>): Promise<{ id: number; served: number }[]> {
  if (!service || pid === 0) return [];
  return select<{ id: number; served: number }>(
    `SELECT r.id AS id, r.first_us IS NOT NULL AS served FROM resources r JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id
      WHERE s.name = ?1 AND (?2 = '' OR h.name = ?2) AND r.pid = ?3`,
    [service, host, pid]
  );
}

/** Traces that were under way when it ended, the newest first. */
const tracesAround = (atUs: number): Promise<string[]> =>
  selectJson<string>(
    `SELECT json_group_array(trace_id) FROM (SELECT DISTINCT trace_id FROM (
        SELECT trace_id, start_us FROM requests WHERE start_us >= ?1 AND start_us < ?2
        UNION ALL SELECT trace_id, start_us FROM background_work WHERE start_us >= ?1 AND start_us < ?2)
      ORDER BY start_us DESC LIMIT ${MAX_TRACES})`,
    [atUs - UNDER_WAY_US, atUs + NOTICED_US]
  );

const A_REQUEST = `coalesce((SELECT q.span_id FROM requests q WHERE q.trace_id = s.trace_id ORDER BY q.start_us LIMIT 1),
  (SELECT b.span_id FROM background_work b WHERE b.trace_id = s.trace_id ORDER BY b.start_us LIMIT 1), '')`;

async function cutOffIn(traces: readonly string[], processes: readonly number[]): Promise<CutOff[]> {
  if (processes.length === 0) return [];
  return select<CutOff>(
    `SELECT s.trace_id AS traceId, ${A_REQUEST} AS spanId, s.span_id AS childId, s.name AS last, min(s.start_us) AS startUs, max(s.start_us + s.duration_ns / 1000)
      FROM json_each(?) t JOIN spans s ON s.trace_id = t.value
      WHERE s.resource_id IN (SELECT value FROM json_each(?)) AND s.parent_id <> ''
        AND NOT EXISTS (SELECT 1 FROM spans p WHERE p.trace_id = s.trace_id AND p.span_id = s.parent_id)
      GROUP BY s.trace_id, s.parent_id ORDER BY startUs LIMIT ${MAX_LISTED}`,
    [JSON.stringify(traces), JSON.stringify(processes)]
  );
}

interface CallRow {
  traceId: string;
  spanId: string;
  callId: string;
  service: string;
  name: string;
  attributes: string;
  atUs: number;
}

/** Where others ask a service: the addresses of calls that it answered of late. */
async function addressesOf(service: string, atUs: number): Promise<Set<string>> {
  const rows = await select<{ attributes: string }>(
    `SELECT DISTINCT p.attributes AS attributes FROM (
        SELECT r.trace_id, r.span_id FROM requests r JOIN services s ON s.id = r.service_id
          WHERE s.name = ? AND r.start_us < ? ORDER BY r.start_us DESC LIMIT 200) q
      JOIN spans c ON c.trace_id = q.trace_id AND c.span_id = q.span_id
      JOIN spans p ON p.trace_id = c.trace_id AND p.span_id = c.parent_id AND p.kind = 3`,
    [service, atUs]
  );
  return new Set(rows.map(({ attributes }) => addressIn(attributesOf(attributes))).filter(Boolean));
}

const attributesOf = (stored: string): Map<string, unknown> =>
  new Map(JSON.parse(stored) as [string, unknown][]);
const first = (attributes: Map<string, unknown>, ...names: string[]): string =>
  String(names.map((name) => attributes.get(name)).find((value) => value !== undefined) ?? '');
const addressIn = (attributes: Map<string, unknown>): string => {
  const name = first(attributes, 'server.address', 'net.peer.name');
  return name && `${name}:${first(attributes, 'server.port', 'net.peer.port')}`;
};

/** An answer that somebody between, or the broken connection, gave instead of the process. */
const NO_ANSWER = /^(?:502|503|504)$|RESET|REFUSED|EPIPE|HANG|closed|UND_ERR_SOCKET/i;

async function failedCallsIn(
  traces: readonly string[],
  service: string,
  atUs: number
): Promise<FailedCall[]> {
  const addresses = await addressesOf(service, atUs);
  if (addresses.size === 0) return [];
  const rows = await select<CallRow>(
    `SELECT s.trace_id AS traceId, ${A_REQUEST} AS spanId, s.span_id AS callId, v.name AS service, s.name AS name, s.attributes AS attributes,
        s.start_us + s.duration_ns / 1000 AS atUs
      FROM json_each(?1) t JOIN spans s ON s.trace_id = t.value JOIN resources r ON r.id = s.resource_id JOIN services v ON v.id = r.service_id
      WHERE s.kind = 3 AND s.start_us < ?3 AND s.start_us + s.duration_ns / 1000 >= ?2
        AND NOT EXISTS (SELECT 1 FROM spans c WHERE c.trace_id = s.trace_id AND c.parent_id = s.span_id)
      ORDER BY atUs LIMIT ${MAX_TRACES}`,
    [JSON.stringify(traces), atUs - CLOCKS_US, atUs + NOTICED_US]
  );
  return rows
    .flatMap(({ attributes: stored, ...row }) => {
      const attributes = attributesOf(stored);
      const answer = first(attributes, 'error.type', 'http.response.status_code', 'http.status_code');
      return NO_ANSWER.test(answer) && addresses.has(addressIn(attributes)) ? [{ ...row, answer }] : [];
    })
    .slice(0, MAX_LISTED);
}

async function besideOf(service: string, host: string, atUs: number, nowMs: number): Promise<Beside> {
  const minute = Math.floor(atUs / 60e6);
  const from = minute - AROUND_MINUTES;
  // What is to come is not there yet.
  const to = Math.max(minute, Math.min(minute + AROUND_MINUTES, Math.floor(nowMs / 60_000))) + 1;
  const rows = await selectJson<[at: number, isService: number, isHost: number, count: number]>(
    `SELECT json_group_array(json_array(at, mine, here, n)) FROM (
      SELECT m.at, s.name = ? AS mine, h.name = ? AS here, sum(m.count) AS n FROM rollups m
        JOIN endpoints e ON e.id = m.endpoint_id JOIN services s ON s.id = e.service_id JOIN hosts h ON h.id = m.host_id
        WHERE m.step = 1 AND m.margin = 0 AND m.at >= ? AND m.at < ? GROUP BY m.at, mine, here)`,
    [service, host, from, to]
  );
  const empty = (): number[] => new Array<number>(to - from).fill(0);
  const beside: Beside = { from, to, here: empty(), elsewhere: empty(), others: empty() };
  for (const [at, isService, isHost, count] of rows) {
    const row = isService ? (isHost ? beside.here : beside.elsewhere) : isHost ? beside.others : null;
    if (row) row[at - from] += count;
  }
  return beside;
}

async function servedAgain(service: string, host: string, pid: number, atUs: number): Promise<number | null> {
  const [row] = await select<{ at: number | null }>(
    `SELECT min(q.start_us) AS at FROM requests q JOIN resources r ON r.id = q.resource_id JOIN services s ON s.id = r.service_id
        JOIN hosts h ON h.id = r.host_id WHERE q.start_us > ? AND q.start_us < ? AND s.name = ? AND h.name = ? AND (r.pid = 0 OR r.pid <> ?)`,
    [atUs, atUs + 60 * 60e6, service, host, pid]
  );
  return row?.at ?? null;
}

async function dumpsAround(
  { service, host }: EvidenceItem<'crash'>,
  atUs: number
): Promise<EvidenceItem<'heap' | 'threads'>[]> {
  const all = await Promise.all([evidenceOf('heap'), evidenceOf('threads')]);
  return all
    .flat()
    .filter(
      (one) =>
        one.service === service &&
        (one.host === '' || host === '' || one.host === host) &&
        one.startedAtUs !== null &&
        Math.abs(one.startedAtUs - atUs) < DUMPS_US
    )
    .slice(0, MAX_LISTED);
}
