import type { TimeWindow } from '$lib/scope';
import { select } from '../../db/reader';

/** Points of counters that were turned away, by metric, sender and reason. */
export interface RefusedCounters {
  name: string;
  service: string;
  host: string;
  reason: string;
  points: number;
  /** Epoch milliseconds of the latest. */
  atMs: number;
}

/** What was turned away at last since the beginning of a window, the most points first. */
export const refusedCounters = ({ fromUs }: TimeWindow): Promise<RefusedCounters[]> =>
  select(
    `SELECT name, service, host, reason, points, at_ms AS atMs FROM counter_refusals WHERE at_ms >= ? ORDER BY points DESC LIMIT 20`,
    [fromUs / 1000]
  );
