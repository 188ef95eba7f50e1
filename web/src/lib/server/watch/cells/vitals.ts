import { emptyCell, putCell, type Cell } from '@tromix/core/watch/cell';
import { VITALS } from '@tromix/core/pages/vitals';
import { readSketch, sketchSize } from '@tromix/core/stats/sketch';
import { jsonOf } from '../../db/database';
import type { CellSource } from './source';

type Row = [
  at: number,
  site: string,
  page: string,
  device: string,
  connection: string,
  country: string,
  release: string,
  ...vitals: string[]
];
const AUDIENCE = ['device', 'connection', 'country', 'release'] as const;

/** Loads by bin, of visitors alone, as the roll-ups have them. */
export const vitalCells: CellSource<'vital'> = async (watched, { database, step, from, to }) => {
  const rows = await jsonOf<Row>(
    database,
    `SELECT json_group_array(json_array(m.at, p.site, p.name, a.device, a.connection, a.country, a."release", ${VITALS.map((vital) => `m.${vital}`).join(', ')}))
      FROM page_rollups m JOIN pages p ON p.id = m.page_id JOIN page_audiences a ON a.id = m.audience_id
      WHERE m.step = ? AND m.margin = 0 AND m.at BETWEEN ? AND ?`,
    [step, from, to]
  );
  return watched.map(({ site, page, vital, audience }) => {
    const cells = new Map<number, Cell>();
    const at = 7 + VITALS.indexOf(vital);
    for (const row of rows) {
      if ((site && row[1] !== site) || (page && row[2] !== page)) continue;
      if (AUDIENCE.some((of, i) => audience[of] !== '' && row[3 + i] !== audience[of])) continue;
      const sketch = readSketch(String(row[at]));
      putCell(cells, row[0], { ...emptyCell(), count: sketchSize(sketch), sketch });
    }
    return cells;
  });
};
