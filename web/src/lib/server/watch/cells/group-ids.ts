import type { WatchedOf } from '@tromix/core/watch/watched';
import { jsonOf, type Database } from '../../db/database';

/** Numbers of the call groups that are watched, by kind and fingerprint; undefined for one that nobody calls, or where none is named. */
export async function groupIds(
  watched: readonly WatchedOf<'calls'>[],
  database: Database
): Promise<(number | undefined)[]> {
  const rows = await jsonOf<[id: number, kind: string, fingerprint: string]>(
    database,
    `SELECT json_group_array(json_array(g.id, g.kind, g.fingerprint)) FROM json_each(?) k
      JOIN call_groups g ON g.kind = k.value->>0 AND g.fingerprint = k.value->>1`,
    [JSON.stringify(watched.map(({ kind, fingerprint }) => [kind, fingerprint]))]
  );
  const known = new Map(rows.map(([id, kind, fingerprint]) => [JSON.stringify([kind, fingerprint]), id]));
  return watched.map(({ kind, fingerprint }) => known.get(JSON.stringify([kind, fingerprint])));
}
