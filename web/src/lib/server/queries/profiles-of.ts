import type { TimeWindow } from '$lib/scope';
import { select } from '../db/reader';

/** A profile of each of some services: the last that began before the end of a window, by service. */
export async function profilesOf(
  services: readonly string[],
  { toUs }: TimeWindow
): Promise<Map<string, string>> {
  const rows = await select<{ service: string; id: string }>(
    `SELECT service, id, max(started_at_us) FROM evidence
      WHERE kind = 'profile' AND started_at_us < ? AND service IN (SELECT value FROM json_each(?)) GROUP BY service`,
    [toUs, JSON.stringify([...new Set(services)])]
  );
  return new Map(rows.map(({ service, id }) => [service, id]));
}
