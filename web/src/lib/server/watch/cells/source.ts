import type { Cell } from '@tromix/core/watch/cell';
import type { Watched, WatchedOf } from '@tromix/core/watch/watched';
import type { Database } from '../../db/database';
import type { PlaceIds } from './place-ids';

/** Whole minutes since the epoch, both ends included. */
export interface Minutes {
  from: number;
  to: number;
}

/** What sources read with: the writer's own connection when watches are judged, that of pages when a chart is drawn. */
export interface Reading extends Minutes {
  database: Database;
  ids: PlaceIds;
}

/** Reads what one kind of figure is made of: of each that is watched its cells by minute, in the same order. */
export type CellSource<Of extends Watched['of']> = (
  watched: readonly WatchedOf<Of>[],
  reading: Reading
) => Promise<Map<number, Cell>[]>;
