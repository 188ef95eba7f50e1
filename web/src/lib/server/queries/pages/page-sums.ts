import { VITALS, type Vital } from '@tromix/core/pages/vitals';
import { mergeInto, readSketch, emptySketch, type Sketch } from '@tromix/core/stats/sketch';
import { NOT_TOLD, type Audience } from '$lib/page-choices';
import type { Step } from '$lib/roll-up-steps';
import type { TimeWindow } from '$lib/scope';
import { selectJson } from '../../db/reader';
import { PAGE_ROLLUP } from '../../ingest/pages/page-shape';
import { binsOf, rangesOf, type BinRange } from '../bins';
import type { Filter } from '../filter';
import { lastApart, readRanges } from '../remembered';
import { timesOf } from '../rollups';

/** Loads summed up. */
export interface PageSums {
  loads: number;
  /** Those that have a score, and the sum of it in hundredths of a point. */
  scored: number;
  scoreSum: number;
  errors: number;
  /** Over microseconds, of CLS over millionths. */
  sketches: Record<Vital, Sketch>;
}

export interface KeyedSums extends PageSums {
  key: number;
}

const KEYS = { page: 'm.page_id', audience: 'm.audience_id', all: '0' } as const;
type By = keyof typeof KEYS;

const SUMS = ['loads', 'scored', 'score_sum', 'errors'] as const;

/** Conditions on a table that has page_id and audience_id under the alias. `page`: only that one. */
export function audienceFilter(audience: Audience, alias: string, page?: number): Filter {
  const names = (['release', 'device', 'connection', 'country'] as const).filter(
    (name) => audience[name] !== ''
  );
  const args: (string | number)[] = names.map((name) => (audience[name] === NOT_TOLD ? '' : audience[name]));
  let sql =
    names.length === 0
      ? ''
      : ` AND ${alias}.audience_id IN (SELECT id FROM page_audiences WHERE ${names.map((name) => `${name} = ?`).join(' AND ')})`;
  if (page !== undefined) {
    sql += ` AND ${alias}.page_id = ?`;
    args.push(page);
  } else if (audience.site) {
    sql += ` AND ${alias}.page_id IN (SELECT id FROM pages WHERE site = ?)`;
    args.push(audience.site);
  }
  return { sql, args };
}

/** 1: rows of every audience together, which are fewest; 0 where audiences are told apart. */
const marginOf = ({ release, device, connection, country }: Audience, by: By): number =>
  by === 'audience' || [release, device, connection, country].some((name) => name !== '') ? 0 : 1;

async function grouped(
  keys: readonly string[],
  margin: number,
  { sql, args }: Filter,
  ranges: readonly BinRange[]
): Promise<{ keys: number[]; sums: PageSums }[]> {
  const times = timesOf(ranges, margin);
  const rows = await selectJson<(number | string)[]>(
    `SELECT json_group_array(json_array(${[...keys.map((_, i) => `k${i}`), ...SUMS, ...VITALS].join(', ')})) FROM (
      SELECT ${keys.map((key, i) => `${key} AS k${i}`).join(', ')}, ${SUMS.map((name) => `sum(m.${name}) AS ${name}`).join(', ')},
        ${VITALS.map((vital) => `group_concat(m.${vital}, ' ') AS ${vital}`).join(', ')}
      FROM ${PAGE_ROLLUP.table} m WHERE ${times.sql}${sql} GROUP BY ${keys.map((_, i) => `k${i}`).join(', ')} HAVING loads > 0)`,
    [...times.args, ...args]
  );
  return rows.map((row) => {
    const [loads, scored, scoreSum, errors] = row.slice(keys.length).map(Number);
    const texts = row.slice(keys.length + SUMS.length).map(String);
    const sketches = Object.fromEntries(
      VITALS.map((vital, i) => [vital, readSketch(texts[i])])
    ) as PageSums['sketches'];
    return {
      keys: row.slice(0, keys.length).map(Number),
      sums: { loads, scored, scoreSum, errors, sketches }
    };
  });
}

/** Loads in a window by page, by audience, or all together; right to the minute. */
export async function pageSums(
  audience: Audience,
  window: TimeWindow,
  nowMs: number,
  by: By,
  page?: number
): Promise<KeyedSums[]> {
  const margin = marginOf(audience, by);
  const filter = audienceFilter(audience, 'm', page);
  const rows = await readRanges(
    ['page-sums', by, margin, filter],
    rangesOf(window, nowMs, PAGE_ROLLUP.steps),
    (ranges) => grouped([KEYS[by]], margin, filter, ranges)
  );
  const found = new Map<number, KeyedSums>();
  for (const { keys, sums } of rows) {
    const known = found.get(keys[0]) ?? { key: keys[0], ...emptySums() };
    found.set(keys[0], known);
    // What is remembered stays as it is: sums are made of it.
    addSums(known, sums);
  }
  return [...found.values()];
}

/** A window as bins of one step, in order of time; empty ones are left out. */
export async function pageSeries(
  audience: Audience,
  window: TimeWindow,
  step: Step,
  page?: number
): Promise<{ atMs: number; sums: PageSums }[]> {
  const margin = marginOf(audience, 'all');
  const filter = audienceFilter(audience, 'm', page);
  const rows = await readRanges(
    ['page-series', margin, filter],
    lastApart({ step, ...binsOf(window, step) }),
    (ranges) => grouped(['m.at'], margin, filter, ranges)
  );
  return rows
    .map(({ keys, sums }) => ({ atMs: keys[0] * step * 60_000, sums }))
    .sort((a, b) => a.atMs - b.atMs);
}

export const emptySums = (): PageSums => ({
  loads: 0,
  scored: 0,
  scoreSum: 0,
  errors: 0,
  sketches: Object.fromEntries(VITALS.map((vital) => [vital, emptySketch()])) as PageSums['sketches']
});

export function addSums(target: PageSums, { loads, scored, scoreSum, errors, sketches }: PageSums): void {
  target.loads += loads;
  target.scored += scored;
  target.scoreSum += scoreSum;
  target.errors += errors;
  for (const vital of VITALS) mergeInto(target.sketches[vital], sketches[vital]);
}
