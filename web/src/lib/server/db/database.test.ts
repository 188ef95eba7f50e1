import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { MessageChannel } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import fc from 'fast-check';
import { afterAll, afterEach, beforeEach, describe, expect, it } from 'vitest';
import { bulkInsert, oneOf } from './bulk';
import { openDatabase, openForReading, openForWriting } from './client';
import { DatabaseError, jsonOf, LocalDatabase, objectsOf, type Database } from './database';
import { askAt, RemoteDatabase } from './remote';

const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-db-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
let url: string;
let count = 0;
beforeEach(() => (url = `file:${path.join(folder, `${count++}`, 'test.sqlite')}`));

async function withTable(): Promise<Database> {
  const database = new LocalDatabase(openDatabase(url));
  await database.write([
    { sql: 'CREATE TABLE quay (id INTEGER PRIMARY KEY, name TEXT UNIQUE, note)', args: [] }
  ]);
  return database;
}

describe('rows inserted many at a time', () => {
  it('come back as they were: texts of any kind, numbers, and what is missing', async () => {
    const database = await withTable();
    const value = fc.oneof(
      fc.string(),
      fc.constantFrom('__proto__', "'; DROP TABLE quay; --", '⚓', '\u0001', ''),
      fc.integer(),
      fc.integer({ min: -1e9, max: 1e9 }).map((one) => one / 1000),
      fc.constant(null)
    );
    await fc.assert(
      fc.asyncProperty(fc.array(value, { maxLength: 30 }), async (notes) => {
        const rows = notes.map((note, id) => [id, `quay ${id}`, note]);
        await database.write([
          { sql: 'DELETE FROM quay', args: [] },
          bulkInsert('INSERT', 'quay', ['id', 'name', 'note'], rows)
        ]);
        const back = await database.query('SELECT id, name, note FROM quay ORDER BY id');
        expect(back.rows).toEqual(rows);
      }),
      { numRuns: 60 }
    );
    await database.close();
  });

  it('may be ignored or replaced where they are there already', async () => {
    const database = await withTable();
    const columns = ['id', 'name', 'note'];
    await database.write([bulkInsert('INSERT', 'quay', columns, [[1, 'north', 'first']])]);
    await database.write([
      bulkInsert('INSERT OR IGNORE', 'quay', columns, [
        [1, 'north', 'second'],
        [2, 'south', null]
      ])
    ]);
    await database.write([bulkInsert('INSERT OR REPLACE', 'quay', columns, [[2, 'south', 'third']])]);
    expect(await objectsOf(database, 'SELECT note FROM quay ORDER BY id')).toEqual([
      { note: 'first' },
      { note: 'third' }
    ]);
    const some = await database.query(`SELECT id FROM quay WHERE ${oneOf('name')}`, [
      JSON.stringify(['south', 'west'])
    ]);
    expect(some.rows).toEqual([[2]]);
    expect(await jsonOf(database, 'SELECT json_group_array(json_array(id, note)) FROM quay')).toEqual([
      [1, 'first'],
      [2, 'third']
    ]);
    await database.close();
  });
});

describe('a transaction', () => {
  it('that fails leaves nothing of itself, and says why', async () => {
    const database = await withTable();
    const both = [
      { sql: "INSERT INTO quay (id, name) VALUES (1, 'north')", args: [] },
      { sql: "INSERT INTO quay (id, name) VALUES (2, 'north')", args: [] }
    ];
    await expect(database.write(both)).rejects.toThrow(DatabaseError);
    await expect(database.write(both)).rejects.toThrow(/UNIQUE/);
    expect((await database.query('SELECT count(*) FROM quay')).rows).toEqual([[0]]);
    await database.close();
  });

  // A server tells readers by their token.
  it.skipIf(process.env.TEST_REMOTE)('cannot be run through the connection pages read by', async () => {
    const writing = await withTable();
    const reading = await openForReading(url);
    await expect(reading.write([{ sql: 'DELETE FROM quay', args: [] }])).rejects.toThrow(
      /readonly|query_only|read/i
    );
    expect((await reading.query('SELECT count(*) FROM quay')).rows).toEqual([[0]]);
    await reading.close();
    await writing.close();
  });

  it('is seen by readers once it is whole, while they never wait', async () => {
    const writing = await openForWriting(url, path.resolve(import.meta.dirname, '../../../../drizzle'));
    const reading = await openForReading(url);
    const journal = await reading.query('PRAGMA journal_mode');
    expect(journal.rows).toEqual([['wal']]);
    await writing.write([{ sql: "INSERT INTO settings (key, value) VALUES ('a', '1')", args: [] }]);
    expect((await reading.query("SELECT value FROM settings WHERE key = 'a'")).rows).toEqual([['1']]);
    await reading.close();
    await writing.close();
  });
});

describe('a database in another thread', () => {
  let remote: RemoteDatabase;
  let channel: MessageChannel;
  let local: Database;
  beforeEach(async () => {
    local = await withTable();
    channel = new MessageChannel();
    const answered = async (work: () => Promise<unknown>): Promise<unknown> =>
      work().then(
        (value) => ({ value }),
        (cause: unknown) => ({ failed: (cause as Error).message })
      );
    expose(
      {
        query: (sql: string, args?: never[]) => answered(() => local.query(sql, args)),
        write: (statements: never[]) => answered(() => local.write(statements)),
        close: () => answered(() => local.close())
      },
      nodeEndpoint(channel.port1)
    );
    remote = new RemoteDatabase(askAt(channel.port2));
  });
  afterEach(async () => {
    await remote.close();
    channel.port1.close();
  });

  it('answers as one in this thread does', async () => {
    await remote.write([bulkInsert('INSERT', 'quay', ['id', 'name'], [[7, '⚓']])]);
    expect(await remote.query('SELECT id, name FROM quay')).toEqual({
      columns: ['id', 'name'],
      rows: [[7, '⚓']]
    });
  });

  it('fails with its own words, and goes on', async () => {
    await expect(remote.query('SELECT depth FROM nowhere')).rejects.toThrow(DatabaseError);
    await expect(remote.query('SELECT depth FROM nowhere')).rejects.toThrow(/nowhere/);
    expect((await remote.query('SELECT 1')).rows).toEqual([[1]]);
  });
});
