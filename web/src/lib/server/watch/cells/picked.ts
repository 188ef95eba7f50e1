import { addBucket, bucketOf } from '@tromix/core/stats/sketch';
import { emptyCell, type Cell } from '@tromix/core/watch/cell';
import type { WatchedOf } from '@tromix/core/watch/watched';
import { NO_PICKS, type Scope } from '$lib/scope';
import { singleCalls } from '../../explore/single-calls';
import { singleRequests } from '../../explore/single-requests';
import { groupIds } from './group-ids';
import type { CellSource, Reading } from './source';

/** Single requests that are looked at for one figure. Where there are more, no figure is made of a part of them. */
export const MOST_SINGLES = 20_000;

const binOf = ({ step }: Reading, us: number): number => Math.floor(us / 60e6 / step);
const windowOf = ({ step, from, to }: Reading): { fromUs: number; toUs: number } => ({
  fromUs: from * step * 60e6,
  toUs: (to + 1) * step * 60e6
});
const scopeOf = (place: WatchedOf<'requests'>['place'], attributes: readonly string[]): Scope => ({
  ...NO_PICKS,
  ...place,
  attributes: [...attributes],
  last: '30m',
  from: undefined,
  to: undefined,
  run: undefined
});

function cellAt(cells: Map<number, Cell>, bin: number): Cell {
  const cell = cells.get(bin) ?? emptyCell();
  cells.set(bin, cell);
  return cell;
}

function addOne(cell: Cell, { durationNs, failed }: { durationNs: number; failed: boolean }): void {
  const bucket = bucketOf(durationNs / 1000);
  cell.count++;
  cell.sum += durationNs;
  addBucket(cell.sketch, bucket, 1);
  if (!failed) return;
  cell.failed++;
  addBucket(cell.failedSketch, bucket, 1);
}

/** Requests under conditions on their attributes, by bin: those that are kept, one by one. */
export const pickedRequestCells: CellSource<'requests'> = (watched, reading) =>
  Promise.all(
    watched.map(async ({ place, attributes }) => {
      const cells = new Map<number, Cell>();
      const { list, isCut } = await singleRequests(
        reading.database,
        scopeOf(place, attributes),
        windowOf(reading),
        MOST_SINGLES
      );
      if (isCut) return cells;
      for (const request of list) {
        const cell = cellAt(cells, binOf(reading, request.startUs));
        addOne(cell, request);
        cell.hits += request.calls;
      }
      return cells;
    })
  );

/** Calls under conditions on their attributes, of the requests that are kept. */
export const pickedCallCells: CellSource<'calls'> = async (watched, reading) => {
  const groups = await groupIds(watched, reading.database);
  return Promise.all(
    watched.map(async ({ place, attributes, fingerprint }, i) => {
      const cells = new Map<number, Cell>();
      const group = groups[i];
      if (fingerprint !== '' && group === undefined) return cells;
      const filter = { groups: group === undefined ? null : [group], attributes };
      const { list, isCut } = await singleCalls(
        reading.database,
        scopeOf(place, []),
        windowOf(reading),
        filter,
        MOST_SINGLES
      );
      if (isCut) return cells;
      const requests = new Map<number, Set<string>>();
      for (const call of list) {
        const bin = binOf(reading, call.requestUs);
        addOne(cellAt(cells, bin), call);
        requests.set(bin, (requests.get(bin) ?? new Set<string>()).add(call.traceId));
      }
      for (const [bin, of] of requests) cells.get(bin)!.hits = of.size;
      return cells;
    })
  );
};
