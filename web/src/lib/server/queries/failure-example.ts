import { recordedException } from '@tromix/core/failures/failed-span';
import type { RecordedException } from '@tromix/core/failures/identity';
import { loggedException } from '@tromix/core/failures/logged-failures';
import type { Revision } from '@tromix/core/text/source-link';
import { textOf, type Attributes } from '@tromix/core/trace/span';
import { visitEvents } from '@tromix/core/pages/visit';
import { attributesFrom } from '$lib/stored-spans';
import { select } from '../db/reader';
import { LOAD_ATTRIBUTE } from '../ingest/pages/page-errors';
import { wholeLoads } from './pages/whole-loads';
import { crashContent } from './crash-content';
import { itemOfKind } from './evidence';

/** A step that came before: a request, a log record, or something that happened on a page. */
export interface StepBefore {
  atUs: number;
  words: string;
  kind: 'request' | 'log' | 'step';
  traceId: string;
  spanId: string;
}

export interface FailureExample {
  traceId: string;
  /** The request, and the span in it that tells of the failure. */
  spanId: string;
  atSpanId: string;
  atUs: number;
  service: string;
  host: string;
  release: string;
  endpoint: string;
  exception: RecordedException | null;
  /** Of the process that threw it. */
  source: Revision;
  /** What came up to ten minutes before it, of the same person or session where one is named, else of the same trace. */
  before: StepBefore[];
  beforeOf: 'person' | 'trace' | 'process' | 'page';
  /** The load of the page that told of it; null where it was no page. */
  page: { traceId: string; session: string } | null;
}

const BEFORE_US = 600e6;
const MAX_BEFORE = 12;
/** Records of a time that are looked through for those of one process. */
const MAX_LOOKED = 20_000;

/** One occurrence of a failure, and what came before it; null where it is not kept any more. */
export async function exampleOf(id: number): Promise<FailureExample | null> {
  const [row] = await select<{
    traceId: string;
    spanId: string;
    atSpanId: string;
    atUs: number;
    personId: number;
    service: string;
    host: string;
    release: string;
    endpoint: string | null;
    events: string | null;
    resource: string | null;
  }>(
    `SELECT f.trace_id AS traceId, f.span_id AS spanId, f.at_span_id AS atSpanId, f.start_us AS atUs, f.person_id AS personId, s.name AS service,
        h.name AS host, l.name AS release, e.name AS endpoint, p.events AS events, o.attributes AS resource
      FROM failures f JOIN services s ON s.id = f.service_id JOIN hosts h ON h.id = f.host_id JOIN releases l ON l.id = f.release_id
      LEFT JOIN endpoints e ON e.id = f.endpoint_id LEFT JOIN spans p ON p.trace_id = f.trace_id AND p.span_id = f.at_span_id
      LEFT JOIN resources o ON o.id = p.resource_id WHERE f.id = ?`,
    [id]
  );
  if (!row) return null;
  const { events, endpoint, personId, resource, ...rest } = row;
  const process = attributesFrom(resource ?? '[]');
  const event = (JSON.parse(events ?? '[]') as [string, number, [string, string][]][])
    .filter(([name]) => name === 'exception')
    .at(-1);
  return {
    ...rest,
    endpoint: endpoint ?? '',
    source: {
      revision: textOf(process, 'vcs.ref.head.revision'),
      repository: textOf(process, 'vcs.repository.url.full')
    },
    exception: event ? recordedException(new Map(event[2]) as Attributes) : await toldElsewhere(row),
    page: null,
    ...(row.traceId
      ? await beforeOf(row.traceId, row.atUs, personId)
      : ((await onPageBefore(row)) ?? (await writtenBefore(row))))
  };
}

/** Of a crash its evidence tells. */
async function toldElsewhere(
  row: Parameters<typeof loggedExceptionOf>[0]
): Promise<RecordedException | null> {
  if (row.traceId || !row.atSpanId) return loggedExceptionOf(row);
  const item = await itemOfKind(row.atSpanId, 'crash');
  return item ? ((await crashContent(item))?.exception ?? null) : null;
}

/** What the log says was thrown: by the record nearest to the failure, of its span or of no span. */
async function loggedExceptionOf({
  traceId,
  atSpanId,
  atUs,
  service
}: Pick<FailureExample, 'traceId' | 'atSpanId' | 'atUs' | 'service'>): Promise<RecordedException | null> {
  const [found] = await select<{ body: string; attributes: string }>(
    `SELECT l.body AS body, l.attributes AS attributes FROM logs l JOIN resources r ON r.id = l.resource_id JOIN services s ON s.id = r.service_id
      WHERE l.failure = 1 AND l.trace_id = ?1 AND (l.span_id = ?2 OR l.span_id = '') AND s.name = ?4
        AND (?1 <> '' OR l.at_us = ?3) ORDER BY abs(l.at_us - ?3) LIMIT 1`,
    [traceId, atSpanId, atUs, service]
  );
  return found ? loggedException({ body: found.body, attributes: attributesFrom(found.attributes) }) : null;
}

type Told = Pick<FailureExample, 'atUs' | 'service'>;

/** What happened on the page before, of an error that a page told of; null for every other failure, and where its load is not kept. */
async function onPageBefore({
  atUs,
  service
}: Told): Promise<Pick<FailureExample, 'before' | 'beforeOf' | 'page'> | null> {
  const [found] = await select<{ attributes: string }>(
    `SELECT l.attributes FROM logs l JOIN resources r ON r.id = l.resource_id JOIN services s ON s.id = r.service_id
      WHERE l.failure = 1 AND l.trace_id = '' AND l.at_us = ? AND s.name = ? LIMIT 1`,
    [atUs, service]
  );
  const traceId = found ? textOf(attributesFrom(found.attributes), LOAD_ATTRIBUTE) : '';
  const [load] = traceId ? await wholeLoads([traceId]) : [];
  if (!load) return null;
  const before = visitEvents([load])
    .filter(({ fromMs }) => fromMs * 1000 < atUs - 1)
    .slice(-MAX_BEFORE)
    .map(({ fromMs, kind, label }): StepBefore => ({
      atUs: fromMs * 1000,
      words: kind === 'load' ? `page load ${label}` : label,
      kind: 'step',
      traceId: '',
      spanId: ''
    }));
  return { before, beforeOf: 'page', page: { traceId, session: load.session } };
}

/** What the log of the same service and host says, up to ten minutes back: of a failure outside of every trace. */
export async function writtenBefore({
  atUs,
  service,
  host
}: Pick<FailureExample, 'atUs' | 'service' | 'host'>): Promise<Pick<FailureExample, 'before' | 'beforeOf'>> {
  const newest = await select<StepBefore>(
    `SELECT l.at_us AS atUs, l.body AS words, 'log' AS kind, l.trace_id AS traceId, l.span_id AS spanId
      FROM (SELECT * FROM logs WHERE at_us >= ? AND at_us < ? ORDER BY at_us DESC LIMIT ${MAX_LOOKED}) l
      JOIN resources r ON r.id = l.resource_id JOIN services s ON s.id = r.service_id JOIN hosts h ON h.id = r.host_id
      WHERE s.name = ? AND h.name = ? ORDER BY l.at_us DESC LIMIT ${MAX_BEFORE}`,
    [atUs - BEFORE_US, atUs, service, host]
  );
  return { before: newest.reverse(), beforeOf: 'process' };
}

/** What the same person did, else what the same trace tells, up to ten minutes back, oldest first. */
async function beforeOf(
  traceId: string,
  atUs: number,
  personId: number
): Promise<Pick<FailureExample, 'before' | 'beforeOf'>> {
  const whose = personId > 0 ? `instr(r.pairs, ' ' || ${personId} || ' ') > 0` : 'r.trace_id = ?3';
  const [requests, logs] = await Promise.all([
    select<StepBefore>(
      `SELECT r.start_us AS atUs, s.name || ': ' || e.name AS words, 'request' AS kind, r.trace_id AS traceId, r.span_id AS spanId
        FROM requests r JOIN endpoints e ON e.id = r.endpoint_id JOIN services s ON s.id = r.service_id
        WHERE r.start_us >= ?1 AND r.start_us < ?2 AND (${whose} OR r.trace_id = ?3) ORDER BY r.start_us DESC LIMIT ${MAX_BEFORE}`,
      [atUs - BEFORE_US, atUs, traceId]
    ),
    select<StepBefore>(
      `SELECT at_us AS atUs, body AS words, 'log' AS kind, trace_id AS traceId, span_id AS spanId FROM logs
        WHERE trace_id = ? AND at_us >= ? AND at_us <= ? ORDER BY at_us DESC LIMIT ${MAX_BEFORE}`,
      [traceId, atUs - BEFORE_US, atUs]
    )
  ]);
  return {
    before: [...requests, ...logs].sort((a, b) => a.atUs - b.atUs).slice(-MAX_BEFORE),
    beforeOf: personId > 0 ? 'person' : 'trace'
  };
}
