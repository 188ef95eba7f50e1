import { select, selectJson } from '../db/reader';

/** An hour, epoch milliseconds, and how many requests it had. */
export type HourOfData = [atMs: number, requests: number];

const HOUR_MS = 3_600_000;
/** About three months. */
const MOST_HOURS = 2200;

/** The newest hours that have requests. */
export const hoursWithData = (): Promise<HourOfData[]> =>
  selectJson<HourOfData>(
    `SELECT json_group_array(json_array(at * ${HOUR_MS}, count)) FROM (
      SELECT at, count FROM rollups WHERE step = 60 AND margin = 2 AND count > 0 ORDER BY at DESC LIMIT ${MOST_HOURS})`,
    []
  );

/** The end of the newest minute that has requests, epoch milliseconds; null where there are none at all. */
export async function newestDataMs(): Promise<number | null> {
  const [{ at }] = await select<{ at: number | null }>(
    'SELECT max(at) AS at FROM rollups WHERE step = 1 AND margin = 2 AND count > 0'
  );
  return at === null ? null : (at + 1) * 60_000;
}
