import { meanIn, type Bins } from '@tromix/core/counters/bins';
import type { HostFileSystem } from '@tromix/core/findings/host-finding';
import { binsOf, type MsWindow, type StoredSeries } from '../../counters';

/** A trend is looked at over so many days. */
const TREND_MS = 7 * 86_400_000;
const HOUR_MS = 3_600_000;

/** File systems with what was used over the last days. */
export async function fileSystemsOf(
  series: readonly StoredSeries[],
  { toMs }: MsWindow
): Promise<HostFileSystem[]> {
  const usage = series.filter(
    ({ name, attributes }) =>
      name === 'system.filesystem.usage' &&
      (attributes.get('system.filesystem.state') ?? attributes.get('state')) === 'used'
  );
  const limits = series.filter(({ name }) => name === 'system.filesystem.limit');
  const mountOf = ({ attributes }: StoredSeries): string =>
    String(attributes.get('system.filesystem.mountpoint') ?? attributes.get('mountpoint') ?? '');
  const bins = await binsOf([...usage, ...limits], { fromMs: toMs - TREND_MS, toMs }, HOUR_MS);
  return usage.flatMap((one): HostFileSystem[] => {
    const used = bins.get(one.id)!;
    const limit = limits.find(
      (other) => mountOf(other) === mountOf(one) && other.source.id === one.source.id
    );
    const limitBytes = limit ? lastMean(bins.get(limit.id)!) : null;
    const usedBytes = lastMean(used);
    if (limitBytes === null || usedBytes === null) return [];
    const known = [...used.weight.keys()].filter((bin) => used.weight[bin] > 0);
    return [
      {
        mount: mountOf(one),
        usedBytes,
        limitBytes,
        trend: {
          atMs: known.map((bin) => used.fromMs + bin * used.stepMs),
          usedBytes: known.map((bin) => meanIn(used, bin)!)
        }
      }
    ];
  });
}

function lastMean(bins: Bins): number | null {
  for (let bin = bins.weight.length - 1; bin >= 0; bin--) if (bins.weight[bin] > 0) return meanIn(bins, bin);
  return null;
}
