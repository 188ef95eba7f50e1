import { groupBy } from '@tromix/core/group-by';
import { changeOverStrata, type Change } from '@tromix/core/stats/rank-test';
import { emptySketch } from '@tromix/core/stats/sketch';
import { NO_PICKS, timeBefore, type Scope, type TimeWindow } from '$lib/scope';
import { coveredMinutes } from '../covered';
import { namesById } from '../names-by-id';
import { totalsIn } from '../rollups';

/** How requests of a host or a service fare in a window, against as long a time before. */
export interface Health {
  requests: number;
  perMinute: number;
  /** 0 where there were none before. */
  perMinuteBefore: number;
  /** Like endpoints are held against each other: another mix of them makes no difference. */
  change: Change;
}

/** The health of every host or service of a scope, by its name. */
export async function healthBy(
  scope: Scope,
  window: TimeWindow,
  nowMs: number,
  by: 'host' | 'service'
): Promise<Map<string, Health>> {
  const wide: Scope = { ...scope, ...NO_PICKS };
  const before = timeBefore(window, nowMs);
  const [now, then, minutes, minutesBefore] = await Promise.all([
    totalsIn(wide, window, nowMs, by, 'endpoint'),
    totalsIn(wide, before, nowMs, by, 'endpoint'),
    coveredMinutes(window, nowMs),
    coveredMinutes(before, nowMs)
  ]);
  const keys = [...new Set([...now.keys(), ...then.keys()])];
  const grouped = groupBy(keys, (key) => Number(key.split(' ')[0]));
  const names = await namesById(`${by}s`, [...grouped.keys()]);
  const count = (of: typeof now, list: readonly string[]): number =>
    list.reduce((sum, key) => sum + (of.get(key)?.count ?? 0), 0);
  return new Map(
    [...grouped].map(([id, list]) => [
      names.get(id) ?? '',
      {
        requests: count(now, list),
        perMinute: count(now, list) / minutes,
        perMinuteBefore: count(then, list) / minutesBefore,
        change: changeOverStrata(
          list.map((key) => ({
            first: then.get(key)?.sketch ?? emptySketch(),
            second: now.get(key)?.sketch ?? emptySketch()
          }))
        )
      }
    ])
  );
}
