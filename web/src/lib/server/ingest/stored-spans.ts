import type { Resource, Span } from '@tromix/core/trace/span';
import { attributesFrom, spansFrom, type StoredSpans } from '$lib/stored-spans';
import { oneOf } from '../db/bulk';
import { jsonOf, jsonValue, type Database } from '../db/database';
import type { TraceRecords } from './accounting';
import { loggedFailures } from './log-rows';
import { spansSelect } from './span-rows';

/** Spans of a trace that are still to be booked, and the mark up to which they were read. */
export interface DueTrace extends TraceRecords {
  generation: number;
}

/**
 * Traces of which more is stored than is in memory (late spans, a restart) are read back whole. The mark is read no later than the spans, so that
 * spans which come meanwhile leave a newer one.
 * @param maxSpans traces with more spans are not read.
 */
export async function completeFromStore(
  database: Database,
  traces: ReadonlyMap<string, Span[]>,
  maxSpans: number
): Promise<{ due: Map<string, DueTrace>; tooLarge: { id: string; spans: number }[] }> {
  const counts = await jsonOf<[string, number, number | null]>(
    database,
    `SELECT json_group_array(json_array(t.id, t.n, p.generation)) FROM
      (SELECT trace_id AS id, count(*) AS n FROM spans WHERE ${oneOf('trace_id')} GROUP BY trace_id) t
      LEFT JOIN pending_traces p ON p.trace_id = t.id`,
    [JSON.stringify([...traces.keys()])]
  );
  const due = new Map<string, DueTrace>();
  const tooLarge: { id: string; spans: number }[] = [];
  const partial: string[] = [];
  for (const [id, count, generation] of counts) {
    if (count > maxSpans) {
      tooLarge.push({ id, spans: count });
      continue;
    }
    const known = traces.get(id)!;
    const complete = new Set(known.map((span) => span.spanId)).size === count;
    due.set(id, { spans: complete ? known : [], logged: [], generation: generation ?? 0 });
    if (!complete) partial.push(id);
  }
  if (partial.length > 0)
    for (const span of await storedSpans(database, partial)) due.get(span.traceId)?.spans.push(span);
  for (const [id, logged] of await loggedFailures(database, [...due.keys()])) due.get(id)!.logged = logged;
  return { due, tooLarge };
}

async function storedSpans(database: Database, traceIds: readonly string[]): Promise<Span[]> {
  const found = await jsonValue(database, spansSelect(oneOf('trace_id')), [JSON.stringify(traceIds)]);
  return spansFrom(found as StoredSpans, await loadResources(database));
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
