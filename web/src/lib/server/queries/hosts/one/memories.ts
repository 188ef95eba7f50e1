import type { HostMemory } from '@tromix/core/findings/host-finding';
import { groupBy } from '@tromix/core/group-by';
import type { StoredSeries } from '../../counters';
import { processOf, type Serving } from '../serving-processes';
import { underWayOn, type BinGrid } from '../under-way';
import { sumLine, type Over } from './over-bins';

/** Memory of the processes of each service, and its requests under way. */
export async function memoriesOf(
  series: readonly StoredSeries[],
  { of }: Over,
  serving: Serving,
  grid: BinGrid
): Promise<HostMemory[]> {
  const memory = series.filter(({ name, source }) => name === 'process.memory.usage' && source.pid > 0);
  // Its host and it itself may tell of a process: one of them counts.
  const once = [...groupBy(memory, ({ source }) => processOf(source)).values()].map(([first]) => first);
  const byService = groupBy(once, ({ source }) => serving.serviceOf(source));
  byService.delete('');
  if (byService.size === 0) return [];
  const underWay = await underWayOn(series[0].source.host, grid);
  return [...byService].map(([service, list]) => ({
    service,
    bytes: sumLine(list, of) ?? [],
    underWay: underWay.get(service) ?? []
  }));
}
