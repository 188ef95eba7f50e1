import { EVIDENCE_KINDS, KINDS, type EvidenceKind } from '@tromix/core/evidence/kinds';
import { select } from '../db/reader';

interface Hit {
  label: string;
  detail: string;
}
/** Something that was found, and what it takes to go there. */
export type PaletteHit = Hit &
  (
    | { kind: 'service' | 'host' | 'release'; name: string }
    | { kind: 'endpoint'; service: string; name: string }
    | { kind: 'call'; group: number }
    | { kind: 'evidence'; of: EvidenceKind; id: string }
  );

const EACH = 8;

/** Finds services, hosts, releases, endpoints, evidence and calls whose name holds the text. */
export async function findNames(text: string): Promise<PaletteHit[]> {
  const like = `%${text.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  const endpoints = await select<{ service: string; name: string }>(
    `SELECT s.name AS service, e.name AS name FROM endpoints e JOIN services s ON s.id = e.service_id
      WHERE s.name || ' ' || e.name LIKE ? ESCAPE '\\' ORDER BY e.name LIMIT ${EACH}`,
    [like]
  );
  const evidence = await select<{ id: string; kind: EvidenceKind; name: string; service: string }>(
    `SELECT id, kind, name, service FROM evidence WHERE name || ' ' || service LIKE ? ESCAPE '\\'
      AND kind IN (SELECT value FROM json_each(?)) ORDER BY received_at_us DESC LIMIT ${EACH}`,
    [like, JSON.stringify(EVIDENCE_KINDS)]
  );
  const calls = await select<{ id: number; kind: string; fingerprint: string }>(
    `SELECT id, kind, fingerprint FROM call_groups WHERE fingerprint LIKE ? ESCAPE '\\'
      AND kind IN ('database', 'cache', 'http', 'rpc', 'messaging', 'file') ORDER BY length(fingerprint) LIMIT ${EACH}`,
    [like]
  );
  const places = await select<{ kind: 'service' | 'host' | 'release'; name: string }>(
    ['services', 'hosts', 'releases']
      .map(
        (table) =>
          `SELECT * FROM (SELECT DISTINCT '${table.slice(0, -1)}' AS kind, name FROM ${table} WHERE name LIKE ?1 ESCAPE '\\' ORDER BY length(name), name LIMIT ${EACH / 2})`
      )
      .join(' UNION ALL '),
    [like]
  );
  return [
    ...places.map(({ kind, name }): PaletteHit => ({ kind, label: name, detail: kind, name })),
    ...endpoints.map(({ service, name }): PaletteHit => ({
      kind: 'endpoint',
      label: name,
      detail: service,
      service,
      name
    })),
    ...calls.map(({ id, kind, fingerprint }): PaletteHit => ({
      kind: 'call',
      label: fingerprint,
      detail: `${kind} call`,
      group: id
    })),
    ...evidence.map(({ id, kind, name, service }): PaletteHit => ({
      kind: 'evidence',
      label: name || KINDS[kind].label,
      detail: `${KINDS[kind].label}${service ? ` of ${service}` : ''}`,
      of: kind,
      id
    }))
  ];
}
