import { groupBy } from '@tromix/core/group-by';
import type { Line } from '@tromix/core/counters/strips';
import { select } from '../../db/reader';

/** Bins of equal length, epoch milliseconds. */
export interface BinGrid {
  fromMs: number;
  stepMs: number;
  bins: number;
}

const MINUTE_MS = 60_000;

/**
 * How many requests of each service were under way on a host on average, from roll-ups a minute: the time of those that began in it, by its length
 * (Little's law). Of bins of less than a minute the one in its middle has it: a minute counts once.
 */
export async function underWayOn(
  host: string,
  { fromMs, stepMs, bins }: BinGrid
): Promise<Map<string, Line>> {
  const rows = await select<{ service: string; minute: number; totalNs: number }>(
    `SELECT s.name AS service, m.at AS minute, sum(m.total_ns) AS totalNs FROM rollups m
      JOIN endpoints e ON e.id = m.endpoint_id JOIN services s ON s.id = e.service_id JOIN hosts h ON h.id = m.host_id
      WHERE m.step = 1 AND m.margin = 0 AND m.at >= ? AND m.at < ? AND h.name = ? GROUP BY s.name, m.at`,
    [Math.floor(fromMs / MINUTE_MS), Math.ceil((fromMs + bins * stepMs) / MINUTE_MS), host]
  );
  return new Map(
    [...groupBy(rows, ({ service }) => service)].map(([service, of]) => {
      const perMinute = new Map(of.map(({ minute, totalNs }) => [minute, totalNs / (MINUTE_MS * 1e6)]));
      const at = stepMs < MINUTE_MS ? inTheMiddle : meanIn;
      return [
        service,
        Array.from({ length: bins }, (_, bin) => at(perMinute, fromMs + bin * stepMs, stepMs))
      ];
    })
  );
}

/** That of the minute whose middle lies in a bin. */
function inTheMiddle(perMinute: ReadonlyMap<number, number>, fromMs: number, stepMs: number): number | null {
  const minute = Math.floor(fromMs / MINUTE_MS);
  const middleMs = (minute + 0.5) * MINUTE_MS;
  return middleMs >= fromMs && middleMs < fromMs + stepMs ? (perMinute.get(minute) ?? null) : null;
}

/** The mean of the minutes of a bin in which there were requests; null where there were none. */
function meanIn(perMinute: ReadonlyMap<number, number>, fromMs: number, stepMs: number): number | null {
  const first = Math.floor(fromMs / MINUTE_MS);
  const end = Math.max(first + 1, Math.ceil((fromMs + stepMs) / MINUTE_MS));
  let [sum, count] = [0, 0];
  for (let minute = first; minute < end; minute++) {
    const value = perMinute.get(minute);
    if (value === undefined) continue;
    sum += value;
    count++;
  }
  return count === 0 ? null : sum / count;
}
