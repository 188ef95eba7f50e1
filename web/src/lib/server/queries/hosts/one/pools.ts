import type { HostPool } from '@tromix/core/findings/host-finding';
import { stretchesWhere } from '@tromix/core/counters/stretches';
import type { Line } from '@tromix/core/counters/strips';
import { groupBy } from '@tromix/core/group-by';
import { distributionsIn, seriesOf, type MsWindow, type StoredSeries } from '../../counters';
import { POOL_KINDS, POOL_NAMES, type PoolKind } from './pool-kinds';
import { medianWait, POOL_WAITS } from './pool-waits';
import { sumLine, sumOfMeans, type Over } from './over-bins';

/** Pools of connections and of threads, by their name and the process that holds them. */
export async function poolsOf(
  series: readonly StoredSeries[],
  over: Over,
  host: string,
  times: MsWindow,
  stepMs: number
): Promise<HostPool[]> {
  const waits = await seriesOf({ names: POOL_WAITS, hosts: [host], sinceMs: times.fromMs });
  const waited = await distributionsIn(waits, times, stepMs);
  return POOL_KINDS.flatMap((kind) => {
    const ofKind = series.filter(({ name }) => POOL_NAMES.includes(name) && kind.names.includes(name));
    return [...groupBy(ofKind, (one) => keyOf(kind, one))].map(([key, list]): HostPool => {
      const named = (names: readonly string[]): StoredSeries[] =>
        list.filter(({ name }) => names.includes(name));
      const waiting = sumLine(named(kind.waiting), over.of) ?? [];
      const mine = waits.filter((one) => keyOf(kind, one) === key);
      const parts = mine.flatMap(({ id }) => waited.get(id) ?? []);
      const busy = parts.filter((part) => isWithin(part, waiting, times.fromMs, stepMs));
      return {
        name: nameOf(kind, list[0]),
        of: kind.of,
        service: list[0].source.service,
        size: sumOfMeans(named(kind.size), over),
        used: sumLine(named(kind.used).filter(kind.isUsed), over.of) ?? [],
        waiting,
        waitedS: medianWait(mine, busy.length > 0 ? busy : parts)
      };
    });
  });
}

const nameOf = ({ nameBy, of }: PoolKind, { attributes }: StoredSeries): string =>
  String(nameBy.map((key) => attributes.get(key)).find(Boolean) ?? `pool of ${of}`);
const keyOf = (kind: PoolKind, one: StoredSeries): string => `${one.source.id} ${nameOf(kind, one)}`;

/** Whether something came while somebody waited: who takes from a pool that is free waits for nothing. */
function isWithin(
  { fromMs, toMs }: { fromMs: number; toMs: number },
  waiting: Line,
  beginMs: number,
  stepMs: number
): boolean {
  const first = Math.floor(beginMs / stepMs) * stepMs;
  return stretchesWhere(waiting.length, (bin) => (waiting[bin] ?? 0) >= 1).some(
    ([from, to]) => fromMs < first + to * stepMs && toMs > first + from * stepMs
  );
}
