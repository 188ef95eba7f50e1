import { EVIDENCE_KINDS, KINDS, type EvidenceKind } from '@tromix/core/evidence/kinds';
import { watchName } from '@tromix/core/watch/watch';
import { reader, select } from '../db/reader';
import { boardList } from '../watch/boards';
import { readWatches } from '../watch/stored';

interface Hit {
  label: string;
  detail: string;
}
/** Something that was found, and what it takes to go there. */
export type PaletteHit = Hit &
  (
    | { kind: 'service' | 'host' | 'release'; name: string }
    | { kind: 'endpoint'; service: string; name: string }
    | { kind: 'page'; id: number; name: string }
    | { kind: 'call'; group: number }
    | { kind: 'watch' | 'board'; id: string }
    | { kind: 'evidence'; of: EvidenceKind; id: string }
    /** Something a piece of evidence names: a function, a class, a thread. */
    | { kind: 'named'; of: EvidenceKind; id: string; name: string }
    | { kind: 'request'; traceId: string; spanId: string }
  );

const EACH = 8;

/** Ids are searched by their beginning, from so many digits on. */
const ID = /^[0-9a-f]{6,32}$/;

/** Finds what the text names: ids of traces and requests, services, hosts, releases, endpoints, pages, calls, watches, boards, evidence, functions, classes, threads. */
export async function findNames(text: string): Promise<PaletteHit[]> {
  const like = `%${text.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  const found = await Promise.all([
    requestsById(text.toLowerCase()),
    places(like),
    endpoints(like),
    pages(like),
    calls(like),
    watchesAndBoards(text),
    evidence(like),
    namedInEvidence(like)
  ]);
  return found.flat();
}

async function requestsById(id: string): Promise<PaletteHit[]> {
  if (!ID.test(id)) return [];
  const rows = await select<{ traceId: string; spanId: string; endpoint: string; service: string }>(
    `SELECT r.trace_id AS traceId, r.span_id AS spanId, e.name AS endpoint, s.name AS service FROM requests r
      JOIN endpoints e ON e.id = r.endpoint_id JOIN services s ON s.id = r.service_id
      WHERE (r.trace_id >= ?1 AND r.trace_id < ?2) OR (length(?1) = 16 AND r.span_id = ?1) ORDER BY r.start_us LIMIT ${EACH}`,
    [id, `${id}g`]
  );
  return rows.map(({ traceId, spanId, endpoint, service }) => ({
    kind: 'request',
    label: `${service} ${endpoint}`,
    detail: traceId.startsWith(id) ? `trace ${traceId.slice(0, 12)}…` : `request ${spanId}`,
    traceId,
    spanId
  }));
}

async function places(like: string): Promise<PaletteHit[]> {
  const rows = await select<{ kind: 'service' | 'host' | 'release'; name: string }>(
    ['services', 'hosts', 'releases']
      .map(
        (table) =>
          `SELECT * FROM (SELECT DISTINCT '${table.slice(0, -1)}' AS kind, name FROM ${table} WHERE name LIKE ?1 ESCAPE '\\' ORDER BY length(name), name LIMIT ${EACH / 2})`
      )
      .join(' UNION ALL '),
    [like]
  );
  return rows.map(({ kind, name }) => ({ kind, label: name, detail: kind, name }));
}

async function endpoints(like: string): Promise<PaletteHit[]> {
  const rows = await select<{ service: string; name: string }>(
    `SELECT s.name AS service, e.name AS name FROM endpoints e JOIN services s ON s.id = e.service_id
      WHERE s.name || ' ' || e.name LIKE ? ESCAPE '\\' ORDER BY e.name LIMIT ${EACH}`,
    [like]
  );
  return rows.map(({ service, name }) => ({
    kind: 'endpoint',
    label: name,
    detail: `endpoint of ${service}`,
    service,
    name
  }));
}

async function pages(like: string): Promise<PaletteHit[]> {
  const rows = await select<{ id: number; site: string; name: string }>(
    `SELECT id, site, name FROM pages WHERE site || ' ' || name LIKE ? ESCAPE '\\' ORDER BY length(name), name LIMIT ${EACH}`,
    [like]
  );
  return rows.map(({ id, site, name }) => ({
    kind: 'page',
    label: name,
    detail: `page of ${site}`,
    id,
    name
  }));
}

async function calls(like: string): Promise<PaletteHit[]> {
  const rows = await select<{ id: number; kind: string; fingerprint: string }>(
    `SELECT id, kind, fingerprint FROM call_groups WHERE fingerprint LIKE ? ESCAPE '\\'
      AND kind IN ('database', 'cache', 'http', 'rpc', 'messaging', 'file') ORDER BY length(fingerprint) LIMIT ${EACH}`,
    [like]
  );
  return rows.map(({ id, kind, fingerprint }) => ({
    kind: 'call',
    label: fingerprint,
    detail: `${kind} call`,
    group: id
  }));
}

/** Watches by the words they are called; boards by their names. */
async function watchesAndBoards(text: string): Promise<PaletteHit[]> {
  const has = (name: string): boolean => name.toLowerCase().includes(text.toLowerCase());
  const [watches, boards] = await Promise.all([reader().then(readWatches), boardList()]);
  return [
    ...watches.map(({ id, watch }): PaletteHit => ({
      kind: 'watch',
      label: watchName(watch),
      detail: 'watch',
      id
    })),
    ...boards.map(({ id, name }): PaletteHit => ({ kind: 'board', label: name, detail: 'board', id }))
  ]
    .filter(({ label }) => has(label))
    .slice(0, EACH);
}

async function evidence(like: string): Promise<PaletteHit[]> {
  const rows = await select<{ id: string; kind: EvidenceKind; name: string; service: string }>(
    `SELECT id, kind, name, service FROM evidence WHERE name || ' ' || service LIKE ? ESCAPE '\\'
      AND kind IN (SELECT value FROM json_each(?)) ORDER BY received_at_us DESC LIMIT ${EACH}`,
    [like, JSON.stringify(EVIDENCE_KINDS)]
  );
  return rows.map(({ id, kind, name, service }) => ({
    kind: 'evidence',
    label: name || KINDS[kind].label,
    detail: `${KINDS[kind].label}${service ? ` of ${service}` : ''}`,
    of: kind,
    id
  }));
}

/** Each name once for each kind of evidence, in the newest piece that has it. */
async function namedInEvidence(like: string): Promise<PaletteHit[]> {
  const rows = await select<{ name: string; id: string; kind: EvidenceKind; service: string; atUs: number }>(
    `SELECT n.name AS name, e.id AS id, e.kind AS kind, e.service AS service, max(coalesce(e.started_at_us, e.received_at_us)) AS atUs
      FROM evidence_names n JOIN evidence e ON e.id = n.evidence_id
      WHERE n.name LIKE ?1 ESCAPE '\\' AND e.kind IN (SELECT value FROM json_each(?2))
      GROUP BY n.name, e.kind ORDER BY length(n.name), n.name LIMIT ${EACH}`,
    [like, JSON.stringify(EVIDENCE_KINDS)]
  );
  return rows.map(({ name, id, kind, service }) => ({
    kind: 'named',
    label: name,
    detail: `in a ${KINDS[kind].label}${service ? ` of ${service}` : ''}`,
    of: kind,
    id,
    name
  }));
}
