import { groupBy } from '@tromix/core/group-by';
import type { StoredSeries } from '../../counters';
import { sumOfMeans, type Over } from './over-bins';

/** A disk or a network interface over the window: bytes a second in and out, and how busy; null for what is not told. */
export interface HostDevice {
  name: string;
  inBytes: number | null;
  outBytes: number | null;
  /** Share of the time; null for a network interface. */
  busy: number | null;
  /** Errors a second. */
  errors: number | null;
}

/** Disks or network interfaces. */
export function devicesOf(
  series: readonly StoredSeries[],
  over: Over,
  prefix: 'system.disk' | 'system.network',
  directions: readonly [string, string],
  attribute: string
): HostDevice[] {
  const all = series.filter(({ name }) => name.startsWith(`${prefix}.`));
  const nameOf = ({ attributes }: StoredSeries): string =>
    String(attributes.get(attribute) ?? attributes.get('device') ?? '');
  return [...groupBy(all, nameOf)].map(([name, list]): HostDevice => {
    const directed = (direction: string): number | null =>
      sumOfMeans(
        list.filter(
          (one) =>
            one.name === `${prefix}.io` &&
            [...one.attributes].some(([key, value]) => key.endsWith('direction') && value === direction)
        ),
        over
      );
    const only = (metric: string): number | null =>
      sumOfMeans(
        list.filter((one) => one.name === `${prefix}.${metric}`),
        over
      );
    return {
      name,
      inBytes: directed(directions[0]),
      outBytes: directed(directions[1]),
      busy: only('io_time'),
      errors: only('errors')
    };
  });
}
