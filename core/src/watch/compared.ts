import type { Cell } from './cell';

/** What was counted over the minutes that are judged, and over those it is held against; minute by minute where the figure needs it. */
export interface Compared {
  now: Cell;
  before: Cell | null;
  minutesNow: readonly (Cell | undefined)[];
  minutesBefore: readonly (Cell | undefined)[];
}
