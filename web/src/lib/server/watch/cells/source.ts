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
export interface Reading {
  database: Database;
  ids: PlaceIds;
  /** Length of a bin, minutes: 1 when watches are judged, more for charts of long times. One that every table of sums has. */
  step: 1 | 60 | 1440;
  /** Bins of that length since the epoch, both ends included. */
  from: number;
  to: number;
}

/** Reads what one kind of figure is made of: of each that is watched its cells by bin, in the same order. */
export type CellSource<Of extends Watched['of']> = (
  watched: readonly WatchedOf<Of>[],
  reading: Reading
) => Promise<Map<number, Cell>[]>;
