import { sliding, sumOver, type Cell, type Cells } from './cell';
import { BACK_MINUTES, type Condition } from './condition';
import type { Compared } from './compared';

/** A release of the service that is watched, with what is known of it alone. */
export interface ReleaseCells {
  /** Minute of its first request. */
  first: number;
  cells: Cells;
}

/** What is known of a figure: by minute, and by release where the release before is what it is held against. */
export interface Known {
  cells: Cells;
  /** Ascending by their first minutes. */
  releases?: readonly ReleaseCells[];
}

/** The release before is looked at over so many minutes before the present one came: a day. */
export const RELEASE_MINUTES = 1440;

/** What is held against each other at each minute from one to another, both included. The cells that are given out change with the next. */
export function comparedIn(
  { cells, releases = [] }: Known,
  { limit, over }: Condition,
  from: number,
  to: number
): Generator<Compared> {
  if (limit.by === 'number') return alone(cells, over, from, to);
  return limit.against === 'release'
    ? withReleaseBefore(releases, over, from, to)
    : withEarlier(cells, over, BACK_MINUTES[limit.against], from, to);
}

const minutesOf = (cells: Cells, from: number, to: number): (Cell | undefined)[] =>
  Array.from({ length: to - from + 1 }, (_, i) => cells.get(from + i));

function* alone(cells: Cells, over: number, from: number, to: number): Generator<Compared> {
  for (const [, now] of sliding(cells, from, to, over))
    yield { now, before: null, minutesNow: [], minutesBefore: [] };
}

function* withEarlier(
  cells: Cells,
  over: number,
  back: number,
  from: number,
  to: number
): Generator<Compared> {
  const earlier = sliding(cells, from - back, to - back, over);
  for (const [minute, now] of sliding(cells, from, to, over)) {
    const then = earlier.next();
    yield {
      now,
      before: then.done ? null : then.value[1],
      minutesNow: minutesOf(cells, minute - over + 1, minute),
      minutesBefore: minutesOf(cells, minute - back - over + 1, minute - back)
    };
  }
}

/** The present release over its last minutes, against the one before it over its last day alone. */
function* withReleaseBefore(
  releases: readonly ReleaseCells[],
  over: number,
  from: number,
  to: number
): Generator<Compared> {
  const baselines = releases.map((_, i) => baselineOf(releases, i));
  for (let minute = from; minute <= to; minute++) {
    const at = releases.findLastIndex(({ first }) => first <= minute);
    const own: Cells = releases[at]?.cells ?? new Map<number, Cell>();
    const baseline = baselines[at]?.() ?? { before: null, minutesBefore: [] };
    yield {
      now: sumOver(own, minute - over + 1, minute),
      minutesNow: minutesOf(own, minute - over + 1, minute),
      ...baseline
    };
  }
}

type Baseline = Pick<Compared, 'before' | 'minutesBefore'>;

/** The day before a release came, of the one before it; summed up when it is first asked for. */
function baselineOf(releases: readonly ReleaseCells[], at: number): () => Baseline {
  let known: Baseline | undefined;
  return () => {
    if (known) return known;
    if (at === 0) return (known = { before: null, minutesBefore: [] });
    const { cells } = releases[at - 1];
    const [from, to] = [releases[at].first - RELEASE_MINUTES, releases[at].first - 1];
    return (known = { before: sumOver(cells, from, to), minutesBefore: minutesOf(cells, from, to) });
  };
}
