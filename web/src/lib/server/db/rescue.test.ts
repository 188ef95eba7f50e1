import { mkdtempSync, openSync, closeSync, rmSync, statSync, writeFileSync, writeSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { afterEach, beforeEach, expect, it } from 'vitest';
import { openForWriting } from './client';
import { rescue } from './rescue';

const MIGRATIONS = path.resolve(import.meta.dirname, '../../../../drizzle');
let folder: string;
let file: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-rescue-'));
  file = path.join(folder, 'test.sqlite');
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));

it('saves what can be read on both sides of the damage, keeps the damaged file, and leaves a sound database', async () => {
  await (await openForWriting(`file:${file}`, MIGRATIONS)).close();
  const client = createClient({ url: `file:${file}` });
  await client.batch(
    Array.from({ length: 3000 }, (_, i) => ({
      sql: "INSERT INTO logs (id, trace_id, span_id, at_us, at_ns, severity, body, attributes) VALUES (?, ?, '', ?, 0, 9, ?, '[]')",
      args: [i + 1, 'a'.repeat(32), i, `entry ${i} ${'of the log '.repeat(20)}`]
    })),
    'write'
  );
  const page = await client.execute("SELECT rootpage FROM sqlite_master WHERE name = 'logs'");
  expect(Number(page.rows[0].rootpage)).toBeGreaterThan(0);
  await client.execute('PRAGMA wal_checkpoint(TRUNCATE)');
  client.close();
  const { size } = statSync(file);
  const handle = openSync(file, 'r+');
  // A stretch in the middle of the file, where the log lies.
  const at = Math.floor(size / 2 / 4096) * 4096;
  writeSync(handle, Buffer.alloc(3 * 4096, 0xee), 0, 3 * 4096, at);
  closeSync(handle);

  const { copy, tables } = await rescue(file, MIGRATIONS);
  const logs = tables.find(({ table }) => table === 'logs')!;
  expect(logs.incomplete).toBe(true);
  expect(logs.rows).toBeGreaterThan(1500);
  expect(logs.rows).toBeLessThan(3000);
  expect(tables.find(({ table }) => table === 'settings')!.incomplete).toBe(false);
  expect(statSync(copy).size).toBe(size);
  const saved = createClient({ url: `file:${file}` });
  expect((await saved.execute('PRAGMA integrity_check')).rows[0][0]).toBe('ok');
  const both = await saved.execute('SELECT min(id), max(id), count(*) FROM logs');
  expect(Array.from(both.rows[0])).toEqual([1, 3000, logs.rows]);
  saved.close();
  await (await openForWriting(`file:${file}`, MIGRATIONS)).close();
});

it('of something that is no database saves nothing, and keeps it', async () => {
  writeFileSync(file, 'minutes of the harbour board, '.repeat(300));
  const { tables, copy } = await rescue(file, MIGRATIONS);
  expect(tables.every(({ rows, incomplete }) => rows === 0 && incomplete)).toBe(true);
  expect(statSync(copy).size).toBe(9000);
  await (await openForWriting(`file:${file}`, MIGRATIONS)).close();
});
