import { lineOf, STRIP_NAMES } from '@tromix/core/counters/strips';
import { groupBy } from '@tromix/core/group-by';
import { emptyCell, type Cell } from '@tromix/core/watch/cell';
import { ratesIn, seriesOf } from '../../counters/read-series';
import type { CellSource } from './source';

const MINUTE_MS = 60_000;

/** What a host's strips show, by bin: made of the same series in the same way. */
export const measureCells: CellSource<'measure'> = async (watched, { database, step, from, to }) => {
  const stepMs = step * MINUTE_MS;
  const window = { fromMs: from * stepMs, toMs: (to + 1) * stepMs };
  const hosts = [...new Set(watched.map(({ host }) => host))];
  const series = await seriesOf(database, { names: STRIP_NAMES, hosts, sinceMs: window.fromMs });
  const bins = await ratesIn(database, series, window, stepMs);
  const byHost = groupBy(
    series.flatMap(({ id, name, attributes, source }) => {
      const of = bins.get(id);
      return of ? [{ host: source.host, name, attributes, bins: of }] : [];
    }),
    ({ host }) => host
  );
  return watched.map(({ host, measure }) => {
    const cells = new Map<number, Cell>();
    (lineOf(measure, byHost.get(host) ?? []) ?? []).forEach((value, bin) => {
      if (value !== null) cells.set(from + bin, { ...emptyCell(), count: 1, sum: value });
    });
    return cells;
  });
};
