import { meanIn } from '@tromix/core/counters/bins';
import { distributionsInBins, oftenLine, quantileLine } from '@tromix/core/counters/histogram-lines';
import { isHistogram } from '@tromix/core/counters/series';
import type { Line } from '@tromix/core/counters/strips';
import { emptyCell, type Cell } from '@tromix/core/watch/cell';
import type { WatchedOf } from '@tromix/core/watch/watched';
import { namedHost } from '$lib/scope';
import { binsOf, distributionsIn, seriesOf, type StoredSeries } from '../../counters/read-series';
import type { CellSource } from './source';

const MINUTE_MS = 60_000;

type Part = WatchedOf<'counter'>['part'];

/** Values of counters by bin: each series told one, and together they are folded into one. */
export const counterCells: CellSource<'counter'> = async (watched, { database, step, from, to }) => {
  const stepMs = step * MINUTE_MS;
  const window = { fromMs: from * stepMs, toMs: (to + 1) * stepMs };
  const names = [...new Set(watched.map(({ name }) => name))];
  const known = await seriesOf(database, { names, sinceMs: window.fromMs });
  const chosen = watched.map((one) => known.filter((series) => isOf(series, one)));
  const all = [...new Set(chosen.flat())];
  const [bins, parts] = await Promise.all([
    binsOf(database, all, window, stepMs),
    distributionsIn(database, all, window, stepMs)
  ]);
  const lines = new Map<string, Line>();
  const grid = { fromMs: window.fromMs, stepMs, length: to - from + 1 };
  const lineOf = (series: StoredSeries, part: Part): Line => {
    const key = `${series.id} ${part}`;
    const made = lines.get(key) ?? makeLine(series, part);
    lines.set(key, made);
    return made;
  };
  const makeLine = ({ id }: StoredSeries, part: Part): Line => {
    const of = bins.get(id);
    if (of) return Array.from(of.weight, (_, bin) => meanIn(of, bin));
    const inBin = distributionsInBins(parts.get(id) ?? [], grid);
    return part === 'often' ? oftenLine(inBin, stepMs) : quantileLine(inBin, part === 'median' ? 0.5 : 0.95);
  };
  return watched.map(({ part, fold }, i) =>
    folded(
      chosen[i].map((series) => lineOf(series, part)),
      fold,
      from
    )
  );
};

function isOf(series: StoredSeries, { name, place, attributes, part }: WatchedOf<'counter'>): boolean {
  const { source } = series;
  const { name: host, but } = namedHost(place);
  if (series.name !== name || isHistogram(series.kind) !== (part !== 'value')) return false;
  if (place.service !== '' && source.service !== place.service) return false;
  if (host !== '' && (source.host === host) === but) return false;
  if (place.release !== '' && source.release !== place.release) return false;
  return attributes.every((pair) => {
    const equals = pair.indexOf('=');
    const [key, value] = [pair.slice(0, equals), pair.slice(equals + 1)];
    return String(series.attributes.get(key) ?? source.attributes.get(key) ?? '') === value;
  });
}

const FOLDS: Record<WatchedOf<'counter'>['fold'], (values: readonly number[]) => number> = {
  mean: (values) => values.reduce((sum, value) => sum + value, 0) / values.length,
  sum: (values) => values.reduce((sum, value) => sum + value, 0),
  highest: (values) => Math.max(...values),
  lowest: (values) => Math.min(...values)
};

/** A cell of one value for each bin in which a series told one. */
function folded(lines: readonly Line[], fold: WatchedOf<'counter'>['fold'], from: number): Map<number, Cell> {
  const cells = new Map<number, Cell>();
  const length = Math.max(0, ...lines.map((line) => line.length));
  for (let bin = 0; bin < length; bin++) {
    const values = lines.flatMap((line) => line[bin] ?? []);
    if (values.length > 0) cells.set(from + bin, { ...emptyCell(), count: 1, sum: FOLDS[fold](values) });
  }
  return cells;
}
