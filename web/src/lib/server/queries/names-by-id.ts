import { callNames } from '@tromix/core/calls/call-name';
import { SEVERAL } from '../ingest/dictionary';
import { select } from '../db/reader';

/** The texts behind some numbers of a table. */
async function named<Row extends { id: number }>(
  sql: string,
  ids: readonly number[]
): Promise<Map<number, Row>> {
  const rows = await select<Row>(`${sql} IN (SELECT value FROM json_each(?))`, [
    JSON.stringify([...new Set(ids)])
  ]);
  return new Map(rows.map((row) => [row.id, row]));
}

export interface NamedGroup {
  id: number;
  kind: string;
  fingerprint: string;
  verb: string;
  /** The service that answers; '' where it is not known, or is several. */
  callee: string;
}

export const groupsById = (ids: readonly number[]): Promise<Map<number, NamedGroup>> =>
  named<NamedGroup>(
    `SELECT id, kind, fingerprint, verb, replace(callee, '${SEVERAL}', '') AS callee FROM call_groups WHERE id`,
    ids
  );

/** Names of groups as lists show them, by number. */
export function shownNames(groups: ReadonlyMap<number, NamedGroup>): Map<number, string> {
  const names = callNames([...groups.values()]);
  return new Map([...groups.keys()].map((id, i) => [id, names[i]]));
}

export async function originsById(ids: readonly number[]): Promise<Map<number, string>> {
  const rows = await named<{ id: number; name: string }>('SELECT id, name FROM origins WHERE id', ids);
  return new Map([...rows].map(([id, { name }]) => [id, name]));
}

export const endpointsById = (
  ids: readonly number[]
): Promise<Map<number, { id: number; service: string; name: string }>> =>
  named(
    'SELECT e.id AS id, s.name AS service, e.name AS name FROM endpoints e JOIN services s ON s.id = e.service_id WHERE e.id',
    ids
  );

export async function namesById(
  table: 'services' | 'hosts' | 'releases',
  ids: readonly number[]
): Promise<Map<number, string>> {
  const rows = await named<{ id: number; name: string }>(`SELECT id, name FROM ${table} WHERE id`, ids);
  return new Map([...rows].map(([id, { name }]) => [id, name]));
}
