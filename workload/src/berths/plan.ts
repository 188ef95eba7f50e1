import type { Database, Row } from '../platform/database';
import { ask } from '../platform/http';
import type { Settings } from '../platform/settings';
import { inSpan } from '../platform/telemetry';
import { rankBerths } from './rank';

/** Plans a berth for one vessel call: its cargo, the ranking of the berths, and the tide it can come in with. */
export function planBerth(settings: Settings, database: Database, call: number): Promise<unknown> {
  return inSpan('plan berth', { 'quillhaven.call': call }, async () => {
    const manifests = settings.faults.has('query-per-row')
      ? await manifestsOneByOne(database, call)
      : await database.all(
          'SELECT m.id, m.tonnes, m.hazard FROM call_line l JOIN manifest m ON m.id = l.manifest_id WHERE l.call_id = ?',
          call
        );
    const berths = await database.all('SELECT id, length, depth, cranes FROM berth');
    const rounds = settings.faults.has('slow-ranking') ? 900 : 20;
    const best = await inSpan('rank berths', {}, () => rankBerths(berths, manifests, rounds));
    const tide = await ask('GET', `${settings.peers.tides[0]}/tides/window?station=${1 + (call % 24)}`);
    return { call, berth: best, tide };
  });
}

async function manifestsOneByOne(database: Database, call: number): Promise<Row[]> {
  const lines = await database.all('SELECT line, manifest_id FROM call_line WHERE call_id = ?', call);
  const manifests: Row[] = [];
  for (const line of lines) {
    const [manifest] = await database.all(
      'SELECT id, tonnes, hazard FROM manifest WHERE id = ?',
      line.manifest_id
    );
    manifests.push(manifest);
  }
  return manifests;
}
