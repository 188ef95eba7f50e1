import * as v from 'valibot';
import { BoardChart } from '@tromix/core/watch/board';
import { select } from '../db/reader';

/** A board in a list. */
export interface ListedBoard {
  id: string;
  name: string;
  charts: number;
  version: number;
  changedAtUs: number;
}

export const boardList = (): Promise<ListedBoard[]> =>
  select<ListedBoard>(
    'SELECT id, name, json_array_length(charts) AS charts, version, changed_at_us AS changedAtUs FROM boards ORDER BY name, id'
  );

export interface StoredBoard {
  id: string;
  name: string;
  charts: BoardChart[];
  version: number;
}

/** A board; undefined where there is none. Charts of a newer version are left out. */
export async function boardOf(id: string): Promise<StoredBoard | undefined> {
  const [row] = await select<{ name: string; charts: string; version: number }>(
    'SELECT name, charts, version FROM boards WHERE id = ?',
    [id]
  );
  if (!row) return undefined;
  const charts = (JSON.parse(row.charts) as unknown[]).flatMap((chart) => {
    const parsed = v.safeParse(BoardChart, chart);
    return parsed.success ? [parsed.output] : [];
  });
  return { id, name: row.name, charts, version: row.version };
}
