import { mkdirSync, mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { lockData } from '../data-lock';
import { StartError } from '../start-error';
import { openForWriting, wordedOpening } from './client';

const MIGRATIONS = path.resolve(import.meta.dirname, '../../../../drizzle');
let folder: string;
let file: string;
beforeEach(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-opening-'));
  file = path.join(folder, 'test.sqlite');
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));
const open = async (): Promise<void> => (await openForWriting(`file:${file}`, MIGRATIONS)).close();
const refused = async (migrations = MIGRATIONS): Promise<string> => {
  const cause: unknown = await openForWriting(`file:${file}`, migrations).catch((error: unknown) => error);
  expect(cause).toBeInstanceOf(StartError);
  return (cause as Error).message;
};

describe('opening a database', () => {
  it('makes one where the file is empty', async () => {
    writeFileSync(file, '');
    await open();
    await open();
  });

  it('says that it is a folder', async () => {
    mkdirSync(file);
    expect(await refused()).toContain('is a folder');
  });

  it('says that something else lies there, and leaves that as it is', async () => {
    writeFileSync(file, 'minutes of the harbour board, '.repeat(300));
    expect(await refused()).toMatch(/is damaged, or is no database.*npm run rescue/);
    expect(readFileSync(file, 'utf8')).toContain('harbour board');
  });

  it('says that it is cut off, and what can be done', async () => {
    await open();
    for (const beside of ['-wal', '-shm']) rmSync(file + beside, { force: true });
    truncateSync(file, 6000);
    expect(await refused()).toMatch(/is damaged, perhaps cut off.*npm run rescue/);
  });

  it('says that another program holds it', { timeout: 20_000 }, async () => {
    await open();
    const other = createClient({ url: `file:${file}` });
    const holding = await other.transaction('write');
    await holding.execute("INSERT INTO settings (key, value) VALUES ('held', '1')");
    // It has to write: a repair is due.
    await holding.execute("DELETE FROM settings WHERE key = 'rows-repaired'");
    await holding.commit();
    const again = await other.transaction('write');
    expect(await refused()).toContain('is locked by another program');
    await again.rollback();
    other.close();
  });

  it('says that the migrations are missing, and that a newer version has been here', async () => {
    expect(await refused(path.join(folder, 'nowhere'))).toContain('this installation is not complete');
    await open();
    const other = createClient({ url: `file:${file}` });
    await other.execute("INSERT INTO __drizzle_migrations (hash, created_at) VALUES ('later', 1)");
    other.close();
    expect(await refused()).toContain('newer version');
  });

  it.each([
    ['SQLITE_READONLY: attempt to write a readonly database', 'cannot be written'],
    ['EACCES: permission denied', 'cannot be written'],
    ['SQLITE_FULL: database or disk is full', 'is full'],
    ['SQLITE_CANTOPEN: unable to open database file', 'cannot be opened'],
    ['SQLITE_IOERR: disk I/O error', 'cannot be read whole'],
    ['something else', 'something else']
  ])('words %s', (message, words) => {
    expect(
      wordedOpening('/data/x.sqlite', new Error('wrapped', { cause: new Error(message) })).message
    ).toContain(message === 'something else' ? 'wrapped' : words);
  });
});

describe('the lock of a data folder', () => {
  it('is given once, and the second learns who holds it', async () => {
    await lockData(folder, `file:${file}`, '4380');
    await expect(lockData(folder, `file:${file}`, '4381')).rejects.toThrow(
      new RegExp(`in use by another Tromix server \\(process ${process.pid} on .*, port 4380`)
    );
  });

  it('holds for a database that two folders name', async () => {
    const shared = path.join(folder, 'shared/x.sqlite');
    await lockData(path.join(folder, 'a'), `file:${shared}`, '1');
    await expect(lockData(path.join(folder, 'b'), `file:${shared}`, '2')).rejects.toThrow(
      /The database .* is in use/
    );
  });

  it('says that the folder is a file', async () => {
    writeFileSync(path.join(folder, 'taken'), 'x');
    await expect(lockData(path.join(folder, 'taken'), `file:${file}`, '1')).rejects.toThrow('is a file');
    await expect(lockData(path.join(folder, 'taken/below'), `file:${file}`, '1')).rejects.toThrow(
      'is a file'
    );
  });
});
