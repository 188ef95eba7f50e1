import type { Database } from '../platform/database';
import { settleDues } from './dues';
import type { Routes } from '../platform/http';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';

interface Line {
  goods: string;
  tonnes: number;
}

/** Cargo manifests: read one, file a new one. */
export function manifestsRoutes(settings: Settings, database: Database): Routes {
  database.setUp(`
    create table if not exists manifest (id integer primary key, vessel text, dues integer);
    create table if not exists manifest_line (manifest_id integer, goods text, tonnes real);
    create index if not exists manifest_line_of on manifest_line (manifest_id);
  `);
  for (let id = 1; id <= 200; id++) {
    database.setUp(`insert or ignore into manifest (id, vessel) values (${id}, 'Vessel ${id}')`);
    database.setUp(
      `insert into manifest_line select ${id}, 'timber', 12 where not exists (select 1 from manifest_line where manifest_id = ${id})`
    );
  }
  settleDues(settings, database);
  let next = 10_000;
  return {
    'GET /manifests/:id': async ({ path }) =>
      inSpan('read manifest', {}, async () => {
        const [manifest] = await database.all(
          'SELECT id, vessel FROM manifest WHERE id = ?',
          Number(path.id)
        );
        const lines = await database.all(
          'SELECT goods, tonnes FROM manifest_line WHERE manifest_id = ? ORDER BY goods',
          Number(path.id)
        );
        return { ...manifest, lines };
      }),
    'POST /manifests': async ({ body }) =>
      inSpan('file manifest', {}, () =>
        database.hold(async (connection) => {
          const lines = body as Line[];
          const id = next++;
          await connection.run('INSERT INTO manifest (id, vessel) VALUES (?, ?)', id, 'unnamed');
          if (settings.faults.has('row-by-row-writes')) {
            for (const { goods, tonnes } of lines) {
              await connection.run(
                'INSERT INTO manifest_line (manifest_id, goods, tonnes) VALUES (?, ?, ?)',
                id,
                goods,
                tonnes
              );
            }
          } else {
            const rows = lines.map(() => '(?, ?, ?)').join(', ');
            await connection.run(
              `INSERT INTO manifest_line (manifest_id, goods, tonnes) VALUES ${rows}`,
              ...lines.flatMap(({ goods, tonnes }) => [id, goods, tonnes])
            );
          }
          return { id };
        })
      )
  };
}
