import { copyFileSync, existsSync, renameSync, rmSync } from 'node:fs';
import { createClient, type Client, type InValue, type ResultSet, type Row } from '@libsql/client';
import { openForWriting } from './client';

/** What came of one table. */
export interface RescuedTable {
  table: string;
  rows: number;
  /** True where not all of it could be read. */
  incomplete: boolean;
}

export interface Rescue {
  /** Where the damaged file is kept. */
  copy: string;
  tables: RescuedTable[];
}

const PAGE = 200;
const BESIDE = ['-wal', '-shm'];
const quoted = (name: string): string => `"${name}"`;

/**
 * Saves what can be read of a damaged database: keeps a copy, reads each table from both ends up to where it is damaged, and puts a new database with
 * those rows in its place. No server may have it open.
 */
export async function rescue(file: string, migrationsFolder: string, now = new Date()): Promise<Rescue> {
  if (!existsSync(file)) throw new Error(`There is no file ${file}.`);
  const copy = `${file}.damaged-${now.toISOString().replace(/[:.]/g, '-')}`;
  for (const end of ['', ...BESIDE]) if (existsSync(file + end)) copyFileSync(file + end, copy + end);
  const saved = `${file}.rescued`;
  for (const end of ['', ...BESIDE]) rmSync(saved + end, { force: true });
  await (await openForWriting(`file:${saved}`, migrationsFolder)).close();
  const from = createClient({ url: `file:${copy}`, intMode: 'bigint' });
  const to = createClient({ url: `file:${saved}`, intMode: 'bigint' });
  const tables: RescuedTable[] = [];
  for (const table of await tablesOf(to)) tables.push(await copyTable(from, to, table));
  from.close();
  to.close();
  for (const end of ['', ...BESIDE]) {
    rmSync(file + end, { force: true });
    if (existsSync(saved + end)) renameSync(saved + end, file + end);
  }
  return { copy, tables };
}

async function tablesOf(client: Client): Promise<string[]> {
  const { rows } = await client.execute(
    "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%' AND name NOT LIKE '\\_\\_%' ESCAPE '\\'"
  );
  return rows.map(({ name }) => String(name));
}

/** Columns of a table, and those of its primary key; none where the table cannot be found. */
async function columnsOf(client: Client, table: string): Promise<{ all: string[]; key: string[] }> {
  try {
    const { rows } = await client.execute(`SELECT name, pk FROM pragma_table_info('${table}')`);
    const key = rows.filter(({ pk }) => Number(pk) > 0).sort((a, b) => Number(a.pk) - Number(b.pk));
    return { all: rows.map(({ name }) => String(name)), key: key.map(({ name }) => String(name)) };
  } catch {
    return { all: [], key: [] };
  }
}

async function copyTable(from: Client, to: Client, table: string): Promise<RescuedTable> {
  const there = await columnsOf(from, table);
  const here = await columnsOf(to, table);
  const columns = here.all.filter((name) => there.all.includes(name));
  if (columns.length === 0) return { table, rows: 0, incomplete: true };
  const insert = `INSERT OR IGNORE INTO ${table} (${columns.map(quoted).join(', ')}) VALUES (${columns.map(() => '?').join(', ')})`;
  let rows = 0;
  const read = async (order: 'ASC' | 'DESC'): Promise<boolean> => {
    let last: InValue[] | null = null;
    for (;;) {
      const key = here.key.map(quoted).join(', ');
      const where: string = last
        ? `WHERE (${key}) ${order === 'ASC' ? '>' : '<'} (${here.key.map(() => '?').join(', ')})`
        : '';
      const ordered = here.key.map((name) => `${quoted(name)} ${order}`).join(', ');
      let page: ResultSet;
      try {
        page = await from.execute({
          sql: `SELECT ${columns.map(quoted).join(', ')} FROM ${table} ${where} ORDER BY ${ordered} LIMIT ${PAGE}`,
          args: last ?? []
        });
      } catch {
        return false;
      }
      if (page.rows.length === 0) return true;
      const results = await to.batch(
        page.rows.map((row) => ({ sql: insert, args: columns.map((_, i) => row[i] as InValue) })),
        'write'
      );
      const added = results.reduce((sum, { rowsAffected }) => sum + rowsAffected, 0);
      rows += added;
      // From the other end: what comes now is there already.
      if (order === 'DESC' && added === 0) return true;
      const end: Row = page.rows[page.rows.length - 1];
      last = here.key.map((name): InValue => end[columns.indexOf(name)] as InValue);
    }
  };
  const whole = await read('ASC');
  if (!whole) await read('DESC');
  return { table, rows, incomplete: !whole };
}
