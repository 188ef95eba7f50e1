import { select } from '../db/reader';

export interface PaletteHit {
  kind: 'endpoint' | 'evidence' | 'call';
  label: string;
  detail: string;
  /** Endpoint: [service, name]; evidence: [id]; call: [service, endpoint]. */
  at: string[];
}

const EACH = 8;

/** Finds endpoints, evidence and calls whose name holds the text. */
export async function findNames(text: string): Promise<PaletteHit[]> {
  const like = `%${text.replace(/[\\%_]/g, (sign) => `\\${sign}`)}%`;
  const endpoints = await select<{ service: string; name: string }>(
    `SELECT s.name AS service, e.name AS name FROM endpoints e JOIN services s ON s.id = e.service_id
      WHERE s.name || ' ' || e.name LIKE ? ESCAPE '\\' ORDER BY e.name LIMIT ${EACH}`,
    [like]
  );
  const evidence = await select<{ id: string; kind: string; name: string; service: string }>(
    `SELECT id, kind, name, service FROM evidence WHERE name || ' ' || service LIKE ? ESCAPE '\\' ORDER BY received_at_us DESC LIMIT ${EACH}`,
    [like]
  );
  const calls = await select<{ fingerprint: string; service: string; endpoint: string }>(
    `SELECT f.subject AS fingerprint, s.name AS service, e.name AS endpoint FROM findings f
      JOIN endpoints e ON e.id = f.endpoint_id JOIN services s ON s.id = f.service_id
      WHERE f.subject LIKE ? ESCAPE '\\' GROUP BY f.subject, f.endpoint_id LIMIT ${EACH}`,
    [like]
  );
  return [
    ...endpoints.map(({ service, name }): PaletteHit => ({
      kind: 'endpoint',
      label: name,
      detail: service,
      at: [service, name]
    })),
    ...calls.map(({ fingerprint, service, endpoint }): PaletteHit => ({
      kind: 'call',
      label: fingerprint,
      detail: `asked by ${endpoint}`,
      at: [service, endpoint]
    })),
    ...evidence.map(({ id, kind, name, service }): PaletteHit => ({
      kind: 'evidence',
      label: name || kind,
      detail: `${kind}${service ? ` of ${service}` : ''}`,
      at: [id]
    }))
  ];
}
