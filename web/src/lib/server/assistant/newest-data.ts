import { newestDataMs } from '../queries/data-range';

/** Where there is nothing: what to ask instead. */
export async function newestData(nowMs: number): Promise<string> {
  const newest = await newestDataMs();
  if (newest === null) return 'Nothing has been sent here yet.';
  return newest > nowMs - 24 * 3_600_000
    ? 'There are requests in the last 24 hours: leave names and times out, or ask list_endpoints which names there are.'
    : `The newest request is of ${new Date(newest).toISOString()}: ask with "from" and "to" around it.`;
}
