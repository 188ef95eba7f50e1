import type { EndpointSums, SliceSums } from '@tromix/core/profile/sums/merge-slices';
import { groupBy } from '@tromix/core/group-by';
import { select } from '../db/reader';
import { callCondenser, change } from '../workers';
import type { SliceRow } from './slice-rows';
import { endpointSumsOf, SLICE_COLUMNS } from './slice-rows';

const HOUR_US = 3600e6;
/** Slices whose file went are kept by the minute for so long, and after that by the hour. */
const BY_MINUTE_US = 24 * HOUR_US;
/** How long sums are kept. */
export const KEEP_SUMS_DAYS = 30;
const AT_ONCE = 2000;
const WITHIN_MS = 60_000;

/** Puts slices of more than a day ago together by the hour, and removes what is older than it is kept. @returns how many were put together */
export async function thinOut(nowMs: number): Promise<number> {
  const nowUs = nowMs * 1000;
  const oldest = nowUs - KEEP_SUMS_DAYS * 24 * HOUR_US;
  const [{ over }] = await select<{ over: number }>(
    "SELECT count(*) AS over FROM profile_slices WHERE source = '' AND start_us < ?",
    [oldest]
  );
  if (over > 0) await change('removeOldSlices', oldest);
  const old = await select<SliceRow & { hourUs: number }>(
    `SELECT ${SLICE_COLUMNS}, start_us - start_us % ${HOUR_US} AS hourUs FROM profile_slices p
      WHERE source = '' AND start_us < ?1 AND EXISTS (SELECT 1 FROM profile_slices q WHERE q.service_id = p.service_id AND q.source = '' AND q.id <> p.id
        AND q.start_us >= p.start_us - p.start_us % ${HOUR_US} AND q.start_us < p.start_us - p.start_us % ${HOUR_US} + ${HOUR_US}
        AND q.host_id = p.host_id AND q.release_id = p.release_id AND q.value_type = p.value_type)
      ORDER BY start_us LIMIT ${AT_ONCE}`,
    // Whole hours only: what comes later into the same hour would be put to it again and again.
    [Math.floor((nowUs - BY_MINUTE_US) / HOUR_US) * HOUR_US]
  );
  const hours = groupBy(old, ({ valueType, serviceId, hostId, releaseId, hourUs }) =>
    JSON.stringify([valueType, serviceId, hostId, releaseId, hourUs])
  );
  for (const rows of hours.values()) await putTogether(rows);
  return hours.size;
}

async function putTogether(rows: readonly SliceRow[]): Promise<void> {
  const ids = rows.map(({ id }) => id);
  const endpoints = await endpointSumsOf(ids);
  const slices = rows.map((row): SliceSums => ({
    ...row,
    weights: new Uint8Array(row.weights),
    process: String(row.pid),
    endpoints: endpoints.get(row.id) ?? ([] as EndpointSums[])
  }));
  const merged = await callCondenser((condenser) => condenser.merge(slices), WITHIN_MS);
  const { valueType, serviceId, hostId, releaseId } = rows[0];
  await change('putSlicesTogether', ids, { valueType, serviceId, hostId, releaseId }, merged);
}
