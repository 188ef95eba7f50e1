import { existsSync, mkdirSync, readdirSync, statSync } from 'node:fs';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { drizzle } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { StartError } from '../start-error';
import { LocalDatabase, type Database } from './database';
import { repairRows } from './repair';

const BUSY_TIMEOUT_MS = 5000;
const CACHE_KIB = 32_768;

/** The file of a database address; '' for a server's. */
export const fileOf = (url: string): string => (url.startsWith('file:') ? url.slice('file:'.length) : '');

/** Opens the database; a file's folder is made where it is missing. Every connection waits for a lock for a while. */
export function openDatabase(url: string): Client {
  const file = fileOf(url);
  if (file) mkdirSync(path.dirname(file), { recursive: true });
  // As they are: one number too large to be exact must not make a whole answer fail.
  return createClient({ url, timeout: BUSY_TIMEOUT_MS, intMode: 'bigint' } as Parameters<
    typeof createClient
  >[0]);
}

/** Opens the database for reading: nothing can be written through it, and what is read often stays in memory. */
export async function openForReading(url: string): Promise<Database> {
  const client = openDatabase(url);
  // A server has no connection of ours that would remember them.
  if (fileOf(url)) {
    await client.execute('PRAGMA query_only = ON');
    await client.execute(`PRAGMA cache_size = -${CACHE_KIB}`);
  }
  return new LocalDatabase(client);
}

/** Opens the database for the one writer: journal set, migrated, repaired. @throws StartError saying what is in the way. */
export async function openForWriting(url: string, migrationsFolder: string): Promise<Database> {
  const file = fileOf(url);
  if (file && existsSync(file) && statSync(file).isDirectory())
    throw new StartError(
      `The database ${file} is a folder. Move it away, or name a file in the setting TROMIX_DB.`
    );
  if (!existsSync(path.join(migrationsFolder, 'meta/_journal.json')))
    throw new StartError(
      `The folder of migrations ${migrationsFolder} is missing or empty: this installation is not complete. Install it again.`
    );
  try {
    const client = openDatabase(url);
    if (file) {
      await client.execute('PRAGMA journal_mode = WAL');
      // These two speed up the first connection; later ones of the pool begin with the defaults again. In WAL mode NORMAL
      // loses nothing when the process is killed, and nothing but the last moments when the machine loses power.
      await client.execute('PRAGMA synchronous = NORMAL');
      await client.execute(`PRAGMA cache_size = -${CACHE_KIB}`);
    }
    await refuseNewer(client, url, migrationsFolder);
    await migrate(drizzle(client), { migrationsFolder });
    await repairRows(client);
    return new LocalDatabase(client);
  } catch (cause) {
    throw cause instanceof StartError ? cause : wordedOpening(file || url, cause as Error);
  }
}

/** A database that a newer version has migrated holds what this one does not know. */
async function refuseNewer(client: Client, url: string, migrationsFolder: string): Promise<void> {
  const known = readdirSync(migrationsFolder).filter((name) => name.endsWith('.sql')).length;
  const there = await client.execute(
    "SELECT name FROM sqlite_master WHERE type = 'table' AND name = '__drizzle_migrations'"
  );
  if (there.rows.length === 0) return;
  const { rows } = await client.execute('SELECT count(*) AS n FROM __drizzle_migrations');
  if (Number(rows[0].n) > known)
    throw new StartError(
      `The database ${fileOf(url) || url} was written by a newer version of Tromix. Start that version, or name another database in the setting TROMIX_DB.`
    );
}

/** What SQLite's result codes mean here (sqlite.org, "Result and Error Codes"). */
const OPENING: [code: RegExp, words: (place: string) => string][] = [
  [
    /SQLITE_BUSY|SQLITE_LOCKED|database is locked/,
    (place) => `The database ${place} is locked by another program. Close that program, then start again.`
  ],
  [
    /SQLITE_NOTADB|SQLITE_CORRUPT|malformed|not a database/,
    (place) =>
      `The database ${place} is damaged, or is no database. Nothing in it was changed. “npm run rescue -- ${place}” keeps a copy of it and saves what can still be read; or name another file in the setting TROMIX_DB.`
  ],
  [
    /SQLITE_READONLY|readonly|EACCES|EPERM|EROFS/,
    (place) =>
      `The database ${place} cannot be written. Give this user the right to write it and its folder, or name another file in the setting TROMIX_DB.`
  ],
  [
    /SQLITE_FULL|ENOSPC|disk is full/,
    (place) => `The disk of the database ${place} is full. Free some room, then start again.`
  ],
  [
    /SQLITE_CANTOPEN|ENOTDIR|EEXIST|unable to open/,
    (place) =>
      `The database ${place} cannot be opened. Check that its folder exists and is a folder, and that this user may read it.`
  ],
  [
    /SQLITE_IOERR|EIO/,
    (place) =>
      `The database ${place} cannot be read whole: it is damaged, perhaps cut off, or its disk fails. Nothing in it was changed. “npm run rescue -- ${place}” keeps a copy of it and saves what can still be read.`
  ]
];

/** The words for what went wrong at opening. Exported for the tests. */
export function wordedOpening(place: string, cause: Error): StartError {
  // It may have been worded where it happened, in another thread.
  if (cause.message.startsWith('The ')) return new StartError(cause.message, { cause });
  const texts: string[] = [];
  for (let at: unknown = cause; at instanceof Error; at = at.cause)
    texts.push(`${(at as NodeJS.ErrnoException).code ?? ''} ${at.message}`);
  const found = OPENING.find(([code]) => texts.some((text) => code.test(text)));
  return new StartError(
    found ? found[1](place) : `The database ${place} cannot be opened: ${cause.message}`,
    { cause }
  );
}
