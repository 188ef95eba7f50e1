import { emptyCell, putCell, type Cell } from '@tromix/core/watch/cell';
import { groupBy } from '@tromix/core/group-by';
import { jsonOf } from '../../db/database';
import { isIn } from './place-ids';
import { countCells } from './requests';
import type { CellSource } from './source';

type Row = [
  at: number,
  rule: string,
  subject: string,
  endpoint: number,
  host: number,
  release: number,
  requests: number
];

/** Requests in which a rule found something, beside all requests. Several subjects of one rule in a request count it several times; it is held to all there are. */
export const findingCells: CellSource<'finding'> = async (watched, reading) => {
  const cells = await countCells(
    watched.map(({ place }) => place),
    reading
  );
  const rows = await jsonOf<Row>(
    reading.database,
    `SELECT json_group_array(json_array(m.at, s.rule, s.subject, m.endpoint_id, m.host_id, m.release_id, m.requests))
      FROM finding_rollups m JOIN finding_subjects s ON s.id = m.subject_id
      WHERE m.step = ? AND m.margin = 0 AND m.at BETWEEN ? AND ? AND s.rule IN (SELECT value FROM json_each(?))`,
    [reading.step, reading.from, reading.to, JSON.stringify([...new Set(watched.map(({ rule }) => rule))])]
  );
  const byRule = groupBy(
    watched.map((one, i) => ({ ...one, placed: reading.ids.of(one.place), to: cells[i] })),
    ({ rule }) => rule
  );
  for (const [at, rule, subject, endpoint, host, release, requests] of rows)
    for (const one of byRule.get(rule) ?? [])
      if ((one.subject === '' || one.subject === subject) && isIn(one.placed, endpoint, host, release))
        putCell(one.to, at, { ...emptyCell(), hits: requests });
  for (const of of cells) for (const [at, cell] of of) of.set(at, atMostAll(cell));
  return cells;
};

const atMostAll = (cell: Cell): Cell => (cell.hits > cell.count ? { ...cell, hits: cell.count } : cell);
