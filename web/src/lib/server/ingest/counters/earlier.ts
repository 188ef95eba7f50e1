import { SeriesPool } from '@tromix/core/counters/series';
import type { MetricBatch } from '@tromix/core/formats/otlp/metric-points';
import type { Attributes, Resource } from '@tromix/core/trace/span';
import { jsonOf, type Database } from '../../db/database';

/** What an earlier version kept of counters: the memory of processes, a row a value. */
type Row = [
  rowid: number,
  name: string,
  service: string,
  host: string,
  pid: number,
  atUs: number,
  value: number
];

const AT_ONCE = 50_000;

/** Takes the values of an earlier version as if they came now, and lets go of its table. */
export async function takeEarlierCounters(
  database: Database,
  take: (batch: MetricBatch) => Promise<unknown>
): Promise<void> {
  const { rows } = await database.query(
    "SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = 'counters_before'"
  );
  if (rows.length === 0) return;
  const pool = new SeriesPool();
  for (;;) {
    const list = await jsonOf<Row>(
      database,
      `SELECT json_group_array(json_array(rowid, name, service, host, pid, at_us, value)) FROM
        (SELECT rowid, * FROM counters_before ORDER BY rowid LIMIT ${AT_ONCE})`
    );
    if (list.length === 0) break;
    await take(batchOf(list, pool));
    await database.write([{ sql: 'DELETE FROM counters_before WHERE rowid <= ?', args: [list.at(-1)![0]] }]);
  }
  await database.write([{ sql: 'DROP TABLE counters_before', args: [] }]);
}

function batchOf(rows: readonly Row[], pool: SeriesPool): MetricBatch {
  const numbers = rows.map(([, name, service, host, pid, atUs, value]) => {
    const head = pool.head(JSON.stringify([name, service, host, pid]), () => ({
      resource: resourceOf(service, host, pid),
      name,
      unit: 'By',
      kind: 'gauge',
      isDelta: false,
      isMonotonic: false
    }));
    return { series: head.of('', () => new Map()), atMs: Math.floor(atUs / 1000), startMs: 0, value };
  });
  return { numbers, histograms: [], rejected: [] };
}

/** As much of the process as was kept. */
function resourceOf(service: string, host: string, pid: number): Resource {
  const attributes: Attributes = new Map<string, string | number>([
    ['service.name', service],
    ['host.name', host],
    ['process.pid', pid]
  ]);
  return { service, host, release: '', pid, attributes, key: JSON.stringify([service, host, pid]) };
}
