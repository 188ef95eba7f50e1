import { groupBy } from '@tromix/core/group-by';
import type { Cell, Cells } from '@tromix/core/watch/cell';
import type { Condition } from '@tromix/core/watch/condition';
import { needed } from '@tromix/core/watch/walk';
import { figureKey, type Watched } from '@tromix/core/watch/watched';
import { RELEASE_MINUTES, type Known, type ReleaseCells } from '@tromix/core/watch/windows';
import type { Database } from '../db/database';
import { readPlaceIds, type KnownRelease, type PlaceIds } from './cells/place-ids';
import { readCells } from './cells/read-cells';
import type { Minutes } from './cells/source';

/** A figure over some minutes, and where what is read of it goes. */
interface Wanted extends Minutes {
  watched: Watched;
  put: (cells: Map<number, Cell>) => void;
}

/** What was read of releases that are over: it changes no more, and is long. */
export type Baselines = Map<string, Cells>;

/**
 * Reads what conditions need to be judged over some minutes, of all of them at once: what is alike is read once.
 * @param baselines what is remembered from one reading to the next
 */
export async function readKnown(
  database: Database,
  conditions: readonly Condition[],
  { from, to }: Minutes,
  baselines: Baselines = new Map()
): Promise<Known[]> {
  const ids = await readPlaceIds(database);
  const wanted: Wanted[] = [];
  const known = conditions.map((condition): Known => {
    if (condition.limit.by === 'before' && condition.limit.against === 'release')
      return { cells: new Map(), releases: releasesWanted(condition, { from, to }, ids, wanted, baselines) };
    const cells = new Map<number, Cell>();
    for (const [first, last] of needed(condition, from, to))
      wanted.push({ watched: condition.watched, from: first, to: last, put: (some) => putAll(cells, some) });
    return { cells };
  });
  await readAll(database, ids, wanted);
  return known;
}

/** Those that serve in the minutes, with the one before the first of them. */
function releasesWanted(
  { watched, over }: Condition,
  { from, to }: Minutes,
  ids: PlaceIds,
  wanted: Wanted[],
  baselines: Baselines
): ReleaseCells[] {
  if (!('place' in watched)) return [];
  const known = ids.releasesOf(watched.place.service).filter(({ first }) => first <= to);
  const current = Math.max(
    0,
    known.findLastIndex(({ first }) => first <= from)
  );
  const served = known.slice(Math.max(0, current - 1));
  return served.map((release, i) => {
    const cells = new Map<number, Cell>();
    const of: Watched = { ...watched, place: { ...watched.place, release: release.name } };
    wanted.push({ watched: of, from: from - over + 1, to, put: (some) => putAll(cells, some) });
    const next = served[i + 1] as KnownRelease | undefined;
    if (next) {
      const key = JSON.stringify([figureKey(of), next.first]);
      const remembered = baselines.get(key);
      if (remembered) putAll(cells, remembered);
      else
        wanted.push({
          watched: of,
          from: next.first - RELEASE_MINUTES,
          to: next.first - 1,
          put: (some) => {
            putAll(cells, some);
            baselines.set(key, some);
          }
        });
    }
    return { first: release.first, cells };
  });
}

function putAll(cells: Map<number, Cell>, some: Cells): void {
  for (const [minute, cell] of some) cells.set(minute, cell);
}

/** Figures over the same minutes are read together, and the same figure once. */
async function readAll(database: Database, ids: PlaceIds, wanted: readonly Wanted[]): Promise<void> {
  for (const together of groupBy(wanted, ({ from, to }) => `${from} ${to}`).values()) {
    const alike = [...groupBy(together, ({ watched }) => figureKey(watched)).values()];
    const { from, to } = together[0];
    const cells = await readCells(
      alike.map(([{ watched }]) => watched),
      { database, ids, step: 1, from, to }
    );
    alike.forEach((all, i) => {
      for (const { put } of all) put(cells[i]);
    });
  }
}
