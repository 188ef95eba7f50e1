import { histogramQuantile, merged, type Distribution } from '@tromix/core/counters/histograms';
import type { HostPool } from '@tromix/core/findings/host-finding';
import { groupBy } from '@tromix/core/group-by';
import { distributionsIn, seriesOf, type MsWindow, type StoredSeries } from '../counters';
import { sumLine, sumOfMeans, type Over } from './over-bins';

/** What is read of pools. */
export const POOL_NAMES = [
  'db.client.connection.count',
  'db.client.connection.max',
  'db.client.connection.pending_requests',
  'db.client.connections.usage',
  'db.client.connections.max',
  'db.client.connections.pending_requests'
];
const POOL_WAITS = ['db.client.connection.wait_time', 'db.client.connections.wait_time'];

/** Pools by their name and the process that holds them. */
export async function poolsOf(
  series: readonly StoredSeries[],
  over: Over,
  host: string,
  times: MsWindow,
  stepMs: number
): Promise<HostPool[]> {
  const waits = await seriesOf({ names: POOL_WAITS, host, sinceMs: times.fromMs });
  const waited = await distributionsIn(waits, times, stepMs);
  const nameOf = ({ attributes }: StoredSeries): string =>
    String(attributes.get('db.client.connection.pool.name') ?? attributes.get('pool.name') ?? 'pool');
  const keyOf = (one: StoredSeries): string => `${one.source.id} ${nameOf(one)}`;
  const all = series.filter(({ name }) => POOL_NAMES.includes(name));
  return [...groupBy(all, keyOf)].map(([key, list]): HostPool => {
    const named = (...names: string[]): StoredSeries[] => list.filter(({ name }) => names.includes(name));
    const counts = named('db.client.connection.count', 'db.client.connections.usage');
    const used = counts.filter(
      ({ attributes }) => (attributes.get('db.client.connection.state') ?? attributes.get('state')) === 'used'
    );
    const pending = named('db.client.connection.pending_requests', 'db.client.connections.pending_requests');
    const mine = waits.filter((one) => keyOf(one) === key);
    return {
      name: nameOf(list[0]),
      service: list[0].source.service,
      size: sumOfMeans(named('db.client.connection.max', 'db.client.connections.max'), over),
      used: sumLine(used, over.of) ?? [],
      waiting: sumLine(pending, over.of) ?? [],
      waitedS: medianWait(
        mine,
        mine.flatMap(({ id }) => waited.get(id) ?? [])
      )
    };
  });
}

/** The median of what was waited, seconds; null where it is not told. */
function medianWait(series: readonly StoredSeries[], parts: readonly Distribution[]): number | null {
  const whole = parts.reduce<Distribution | null>(
    (sum, one) => (sum ? (merged(sum, one) ?? sum) : one),
    null
  );
  const median = whole && histogramQuantile(whole, 0.5);
  if (!median) return null;
  return series[0].unit === 'ms' ? median.value / 1000 : median.value;
}
