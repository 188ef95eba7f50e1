import { emptyCell, putCell, type Cell } from '@tromix/core/watch/cell';
import { namedHost } from '$lib/scope';
import { jsonOf } from '../../db/database';
import type { CellSource } from './source';

/** A crash that happened longer before it was received is history: it tells nothing of the present. */
const NEWS_US = 24 * 3_600e6;

/** Crashes by the time at which they were received: a crash is told after the fact, by what picks up its report. */
export const crashCells: CellSource<'crashes'> = async (watched, { database, step, from, to }) => {
  const rows = await jsonOf<[at: number, service: string, host: string, release: string]>(
    database,
    `SELECT json_group_array(json_array(received_at_us / 60000000 / ?, service, host, "release")) FROM evidence
      WHERE kind = 'crash' AND received_at_us >= ? AND received_at_us < ? AND coalesce(started_at_us, 0) >= received_at_us - ${NEWS_US}`,
    [step, from * step * 60e6, (to + 1) * step * 60e6]
  );
  return watched.map(({ place }) => {
    const cells = new Map<number, Cell>();
    const { name, but } = namedHost(place);
    for (const [at, service, host, release] of rows)
      if (
        (place.service === '' || place.service === service) &&
        (name === '' || (name === host) !== but) &&
        (place.release === '' || place.release === release)
      )
        putCell(cells, at, { ...emptyCell(), hits: 1 });
    return cells;
  });
};
