import * as v from 'valibot';
import { standingAt, type Standing, type WatchState } from '@tromix/core/watch/state';
import type { Firing } from '@tromix/core/watch/walk';
import { Watch } from '@tromix/core/watch/watch';
import { jsonOf, type Database } from '../db/database';

/** A watch as the database has it. */
export interface StoredWatch {
  id: string;
  watch: Watch;
  createdAtUs: number;
  version: number;
  silentUntilUs: number;
}

type WatchRow = [id: string, body: string, createdAtUs: number, version: number, silentUntilUs: number];

/** A watch that this server cannot read was saved by a newer one. */
export function watchFrom(body: string): Watch | null {
  const parsed = v.safeParse(Watch, JSON.parse(body));
  return parsed.success ? parsed.output : null;
}

/** Every watch, in the order in which they were made. Those of a newer version are left out. */
export async function readWatches(database: Database): Promise<StoredWatch[]> {
  const rows = await jsonOf<WatchRow>(
    database,
    'SELECT json_group_array(json_array(id, body, created_at_us, version, silent_until_us)) FROM (SELECT * FROM watches ORDER BY created_at_us, id)'
  );
  return rows.flatMap(([id, body, createdAtUs, version, silentUntilUs]) => {
    const watch = watchFrom(body);
    return watch ? [{ id, watch, createdAtUs, version, silentUntilUs }] : [];
  });
}

/** The present versions of the watches, by their ids. */
export const versionsOf = async (database: Database): Promise<Map<string, number>> =>
  new Map(
    await jsonOf<[string, number]>(database, 'SELECT json_group_array(json_array(id, version)) FROM watches')
  );

/** How a watch stands, and up to which minute it is judged. */
export interface StoredStanding extends Standing {
  judged: number;
  /** The time it has been on for; null while it is off. */
  firing: (Firing & { id: string }) | null;
}

type StandingRow = [
  watchId: string,
  judged: number,
  state: WatchState,
  since: number,
  over: number,
  back: number,
  none: number,
  value: number | null,
  before: number | null,
  firingId: string,
  on: number | null,
  firstValue: number | null,
  firstBefore: number | null,
  worst: number | null
];

/** How the watches stand, by their ids. */
export async function readStandings(database: Database): Promise<Map<string, StoredStanding>> {
  const rows = await jsonOf<StandingRow>(
    database,
    `SELECT json_group_array(json_array(s.watch_id, s.judged, s.state, s.since, s.over, s.back, s.none, s.value, s.before, s.firing_id,
        f.on_minute, f.value, f.before, f.worst)) FROM watch_standings s LEFT JOIN watch_firings f ON f.id = s.firing_id`
  );
  return new Map(
    rows.map(
      ([watchId, judged, state, since, over, back, none, value, before, id, on, first, held, worst]) => [
        watchId,
        {
          judged,
          state,
          since,
          over,
          back,
          none,
          value,
          before,
          firing:
            on === null ? null : { id, on, off: null, byNoData: false, value: first, before: held, worst }
        }
      ]
    )
  );
}

/** A watch that was judged never before, up to a minute. */
export const unjudged = (minute: number): StoredStanding => ({
  ...standingAt(minute + 1),
  judged: minute,
  firing: null
});
