import type { Database } from '../platform/database';
import type { Routes } from '../platform/http';
import type { Settings } from '../platform/settings';
import { planBerth } from './plan';

const MANIFESTS_A_CALL = 214;

/** Berth planning: which quay a vessel call gets. */
export function berthsRoutes(settings: Settings, database: Database): Routes {
  database.setUp(`
    create table if not exists vessel_call (id integer primary key, vessel text, eta text);
    create table if not exists call_line (call_id integer, line integer, manifest_id integer, primary key (call_id, line));
    create table if not exists manifest (id integer primary key, tonnes real, hazard integer);
    create table if not exists berth (id integer primary key, length real, depth real, cranes integer);
  `);
  database.setUp('begin');
  for (let call = 1; call <= 60; call++) {
    database.setUp(
      `insert or ignore into vessel_call values (${call}, 'Vessel ${call}', '2026-03-0${1 + (call % 9)}')`
    );
    for (let line = 1; line <= MANIFESTS_A_CALL; line++) {
      database.setUp(`insert or ignore into call_line values (${call}, ${line}, ${call * 1000 + line})`);
      database.setUp(
        `insert or ignore into manifest values (${call * 1000 + line}, ${(line * 37) % 90}, ${line % 17 === 0 ? 1 : 0})`
      );
    }
  }
  for (let berth = 1; berth <= 36; berth++) {
    database.setUp(
      `insert or ignore into berth values (${berth}, ${120 + berth * 7}, ${6 + (berth % 11)}, ${1 + (berth % 4)})`
    );
  }
  database.setUp('commit');
  return {
    'POST /calls/:id/berth': async ({ path }) => planBerth(settings, database, Number(path.id)),
    'GET /plan/export': async () =>
      database.all(
        'SELECT c.id, c.vessel, count(*) AS lines FROM vessel_call c JOIN call_line l ON l.call_id = c.id GROUP BY c.id, c.vessel'
      )
  };
}
