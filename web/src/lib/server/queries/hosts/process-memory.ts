import { groupBy } from '@tromix/core/group-by';
import { namedHost, type Scope, type TimeWindow } from '$lib/scope';
import { binsOf, seriesOf, type StoredSeries } from '../counters';
import { Serving, servingProcesses } from './serving-processes';

/**
 * Memory a process uses, by the names OpenTelemetry's semantic conventions give it, old and new: of the whole process, else of its runtime's heap, which
 * comes in parts (spaces, pools) that are summed. The first that is told counts.
 */
const MEMORY_COUNTERS = [
  'process.memory.usage',
  'v8js.memory.heap.used',
  'jvm.memory.used',
  'process.runtime.nodejs.memory.heap.used',
  'process.runtime.jvm.memory.usage'
] as const;

/** Memory of the processes in scope over time: of each the most in a bin, added up. Epoch milliseconds and bytes. */
export async function memoryIn(
  scope: Scope,
  window: TimeWindow,
  stepMinutes: number
): Promise<{ at: number; bytes: number }[]> {
  const [fromMs, toMs] = [window.fromUs / 1000, window.toUs / 1000];
  const { name, but } = namedHost(scope);
  const [all, served] = await Promise.all([
    seriesOf({ names: MEMORY_COUNTERS, sinceMs: fromMs, hosts: scope.host && !but ? [name] : [] }),
    servingProcesses()
  ]);
  const serving = new Serving(
    served,
    all.map(({ source }) => source)
  );
  const series = all.filter((one) => {
    const service = serving.serviceOf(one.source);
    // What else runs on a host is no process of the scope.
    const isOfService = scope.service ? service === scope.service : service !== '';
    return isOfService && (!scope.host || (one.source.host === name) !== but);
  });
  const told = [
    ...groupBy(series, ({ source: { host, pid, id } }) => (pid > 0 ? `${host} ${pid}` : id)).values()
  ];
  const bins = await binsOf(told.flatMap(oneTelling), { fromMs, toMs }, stepMinutes * 60_000);
  const sums = new Map<number, number>();
  for (const { fromMs: first, stepMs, max } of bins.values())
    max.forEach((most, i) => {
      if (!Number.isNaN(most)) sums.set(first + i * stepMs, (sums.get(first + i * stepMs) ?? 0) + most);
    });
  return [...sums].sort(([a], [b]) => a - b).map(([at, bytes]) => ({ at, bytes }));
}

/** Of the series that tell of one process those of one name and one sender: its host may tell of it as well. */
function oneTelling(series: readonly StoredSeries[]): StoredSeries[] {
  const rank = ({ name }: StoredSeries): number => (MEMORY_COUNTERS as readonly string[]).indexOf(name);
  const [first] = series.toSorted((a, b) => rank(a) - rank(b) || a.source.id - b.source.id);
  return series.filter(({ name, source }) => name === first.name && source.id === first.source.id);
}
