import { groupBy } from '@tromix/core/group-by';
import type { Cell } from '@tromix/core/watch/cell';
import { isPicked, type Watched, type WatchedOf } from '@tromix/core/watch/watched';
import { callCells } from './calls';
import { counterCells } from './counters';
import { crashCells } from './crashes';
import { failureCells } from './failures';
import { findingCells } from './findings';
import { measureCells } from './measures';
import { pickedCallCells, pickedRequestCells } from './picked';
import { requestCells } from './requests';
import type { CellSource, Reading } from './source';
import { vitalCells } from './vitals';

type Source = Watched['of'] | 'picked requests' | 'picked calls';

const SOURCES: { [Of in Watched['of']]: CellSource<Of> } & {
  'picked requests': CellSource<'requests'>;
  'picked calls': CellSource<'calls'>;
} = {
  requests: requestCells,
  calls: callCells,
  finding: findingCells,
  failures: failureCells,
  crashes: crashCells,
  counter: counterCells,
  measure: measureCells,
  vital: vitalCells,
  'picked requests': pickedRequestCells,
  'picked calls': pickedCallCells
};

const sourceOf = (watched: Watched): Source =>
  isPicked(watched) ? `picked ${(watched as WatchedOf<'requests' | 'calls'>).of}` : watched.of;

/** What some figures are made of, minute by minute, in the order they are given: each kind is read once for all of them. */
export async function readCells(watched: readonly Watched[], reading: Reading): Promise<Map<number, Cell>[]> {
  const cells = new Array<Map<number, Cell>>(watched.length);
  const bySource = groupBy([...watched.keys()], (i) => sourceOf(watched[i]));
  for (const [source, places] of bySource) {
    const read = SOURCES[source] as CellSource<Watched['of']>;
    const found = await read(
      places.map((i) => watched[i]),
      reading
    );
    places.forEach((i, at) => (cells[i] = found[at]));
  }
  return cells;
}
