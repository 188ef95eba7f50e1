import { ask, type Routes } from '../platform/http';
import type { Database } from '../platform/database';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';
import { officeRoutes } from '../office/routes';
import { tideBoard } from './board';

/** The front door: what the harbour office's screens ask. */
export function gatewayRoutes(settings: Settings, database: Database): Routes {
  database.setUp(
    `create table if not exists vessel (imo integer primary key, name text, length real, draught real);`
  );
  for (let i = 0; i < 400; i++) {
    database.setUp(
      `insert or ignore into vessel values (${9_100_000 + i}, 'Vessel ${i}', ${80 + (i % 23) * 9}, ${4 + (i % 9)})`
    );
  }
  let next = 0;
  /** Hosts of a service take turns. */
  const peer = (service: string): string => {
    const addresses = settings.peers[service];
    return addresses[next++ % addresses.length];
  };
  return {
    ...officeRoutes(settings, database, peer),
    'GET /board': async () => tideBoard(peer('tides'), settings.faults.has('chatty-remote')),
    'GET /vessels/:imo': async ({ path }) =>
      inSpan('look up vessel', {}, async () => {
        const rows = await database.all(
          'SELECT imo, name, length, draught FROM vessel WHERE imo = ?',
          Number(path.imo)
        );
        return rows[0] ?? null;
      }),
    'POST /calls/:id/berth': async ({ path }) => ask('POST', `${peer('berths')}/calls/${path.id}/berth`),
    'GET /manifests/:id': async ({ path }) => ask('GET', `${peer('manifests')}/manifests/${path.id}`),
    'POST /manifests': async ({ body }) => ask('POST', `${peer('manifests')}/manifests`, body),
    'POST /roster/entries': async ({ body }) => ask('POST', `${peer('pilots')}/roster/entries`, body)
  };
}
