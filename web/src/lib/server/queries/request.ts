import { askedBy } from './pages/asked-by';
import type { Span } from '@tromix/core/trace/span';
import { error } from '@sveltejs/kit';
import { MAX_TRACE_LOGS } from '$lib/log-choices';
import type { Scope } from '$lib/scope';
import { bytesValue } from '../db/database';
import { reader, select, selectJson } from '../db/reader';
import type { CoveringProfile, RequestPage, SameFinding, StoredLog } from './request-page';
import { spansFrom, type StoredSpans } from '$lib/stored-spans';
import { spansSelect } from '../ingest/span-rows';
import { loadResources } from '../ingest/stored-spans';
import { settings } from '../settings';
import { neighboursOf } from './requests';

/** All that the page of one request needs: the spans of its trace as stored, and what lies around it. Null where there is none. */
export async function requestOf(
  scope: Scope,
  traceId: string,
  spanId: string,
  nowMs: number
): Promise<RequestPage | null> {
  const [request] = await select<{
    endpoint_id: number;
    duration_ns: number;
    start_us: number;
    release_us: number;
  }>(
    // Background work is of no endpoint: nothing else is like it.
    `SELECT r.endpoint_id, r.duration_ns, r.start_us, l.first_us AS release_us
      FROM requests r JOIN releases l ON l.id = r.release_id WHERE r.trace_id = ?1 AND r.span_id = ?2
      UNION ALL SELECT 0, b.duration_ns, b.start_us, 0 FROM background_work b WHERE b.trace_id = ?1 AND b.span_id = ?2`,
    [traceId, spanId]
  );
  if (!request) return null;
  const { maxTraceSpans } = settings();
  const [{ spans: spanCount }] = await select<{ spans: number }>(
    'SELECT count(*) AS spans FROM (SELECT 1 FROM spans WHERE trace_id = ? LIMIT ?)',
    [traceId, maxTraceSpans + 1]
  );
  if (spanCount > maxTraceSpans)
    error(
      413,
      `This trace has more than ${maxTraceSpans} spans, too many to be drawn. It can be exported. The limit is the setting TROMIX_MAX_TRACE_SPANS.`
    );
  const endUs = request.start_us + request.duration_ns / 1000;
  // Asked all at once: the database's thread goes on to the next while this one takes an answer.
  const [spans, resources, evidence, same, around, logs, normal, askedByPages] = await Promise.all([
    spansBytes(traceId),
    resourcesOf(traceId),
    select<CoveringProfile & { kind: string }>(
      `SELECT kind, id, service, host, pid, started_at_us AS startedAtUs, duration_ns AS durationNs FROM evidence
        WHERE kind IN ('profile', 'threads') AND started_at_us <= ? AND started_at_us + duration_ns / 1000 >= ?`,
      [endUs, request.start_us]
    ),
    // Sums of their own: grouped, the texts of thousands of findings would be sorted.
    select<SameFinding>(
      `SELECT d.rule AS rule, d.subject AS subject,
          (SELECT sum(f.is_first) FROM findings f
            WHERE f.endpoint_id = d.endpoint_id AND f.rule = d.rule AND f.subject = d.subject) AS requests,
          (SELECT count(*) FROM requests WHERE endpoint_id = d.endpoint_id) AS ofRequests
        FROM (SELECT DISTINCT endpoint_id, rule, subject FROM findings WHERE trace_id = ?) d`,
      [traceId]
    ),
    neighboursOf(scope, spanId, request.endpoint_id, request.duration_ns, nowMs),
    selectJson<StoredLog>(
      `SELECT json_group_array(json_array(l.span_id, l.at_us, l.at_ns, l.severity, l.body, coalesce(s.name, ''))) FROM (
          SELECT * FROM logs WHERE trace_id = ? ORDER BY at_us, at_ns LIMIT ${MAX_TRACE_LOGS}) l
        LEFT JOIN resources r ON r.id = l.resource_id LEFT JOIN services s ON s.id = r.service_id`,
      [traceId]
    ),
    normalOf(request.endpoint_id, traceId, request.start_us, request.release_us),
    askedBy(traceId)
  ]);
  return {
    traceId,
    spanId,
    spans,
    resources,
    profiles: evidence.filter(({ kind }) => kind === 'profile'),
    dumps: evidence.filter(({ kind }) => kind === 'threads'),
    same,
    ...around,
    normal,
    logs,
    askedBy: askedByPages,
    hasSources: settings().sourceFolders.length > 0
  };
}

const spansBytes = async (traceId: string): Promise<Uint8Array> =>
  bytesValue(await reader(), spansSelect('trace_id = ?'), [traceId]);

/** The processes of a trace, without their attributes. */
async function resourcesOf(traceId: string): Promise<RequestPage['resources']> {
  const used = await select<{ id: number }>(
    'SELECT DISTINCT resource_id AS id FROM spans WHERE trace_id = ?',
    [traceId]
  );
  const resources = await loadResources(
    await reader(),
    used.map(({ id }) => id)
  );
  return [...resources].map(([id, { service, host, release, pid, key }]) => [
    id,
    { service, host, release, pid, key }
  ]);
}

/** Of how many requests before and after the middle one is taken. */
const NORMAL_AMONG = 500;

/**
 * A request that stands for the others of its endpoint: of those that did not fail the one of median duration. It is sought among the
 * last before the release, because the one at hand may be slow since then; where there are none, among the earliest.
 */
async function normalOf(
  endpointId: number,
  traceId: string,
  startUs: number,
  releaseUs: number
): Promise<string | null> {
  return (
    (await middleOf(endpointId, traceId, releaseUs, 'DESC')) ??
    (await middleOf(endpointId, traceId, startUs + HOUR_US, 'ASC'))
  );
}

const HOUR_US = 3_600_000_000;

async function middleOf(
  endpointId: number,
  traceId: string,
  beforeUs: number,
  order: 'ASC' | 'DESC'
): Promise<string | null> {
  const [found] = await select<{ path: string }>(
    `WITH among AS MATERIALIZED (
        SELECT trace_id || '/' || span_id AS path, duration_ns FROM requests
        WHERE endpoint_id = ? AND trace_id <> ? AND failed = 0 AND start_us < ?
        ORDER BY start_us ${order} LIMIT ${NORMAL_AMONG})
      SELECT path FROM among ORDER BY duration_ns LIMIT 1 OFFSET (SELECT max(0, count(*) - 1) / 2 FROM among)`,
    [endpointId, traceId, beforeUs]
  );
  return found?.path ?? null;
}

/** Spans of a trace that are exported at once. */
const EXPORTED = 20_000;

/** The spans of a trace with everything known of their processes, for export: some thousands at a time, since a trace may be larger than any memory. */
export async function* spansOf(traceId: string): AsyncGenerator<Span[]> {
  const resources = await loadResources(await reader());
  for (let last = ''; ;) {
    const bytes = await bytesValue(
      await reader(),
      spansSelect(`trace_id = ? AND span_id > ? ORDER BY span_id LIMIT ${EXPORTED}`),
      [traceId, last]
    );
    const spans = spansFrom(JSON.parse(new TextDecoder().decode(bytes)) as StoredSpans, resources);
    if (spans.length > 0) yield spans;
    if (spans.length < EXPORTED) return;
    last = spans.reduce((most, { spanId }) => (spanId > most ? spanId : most), '');
  }
}

/** One span of a trace; null where it is not stored. */
export async function spanOf(traceId: string, spanId: string): Promise<Span | null> {
  for await (const spans of spansOf(traceId)) {
    const found = spans.find((span) => span.spanId === spanId);
    if (found) return found;
  }
  return null;
}
