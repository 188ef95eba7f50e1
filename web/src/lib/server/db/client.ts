import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';
import { drizzle } from 'drizzle-orm/libsql';
import { migrate } from 'drizzle-orm/libsql/migrator';
import { LocalDatabase, type Database } from './database';

const BUSY_TIMEOUT_MS = 5000;
const CACHE_KIB = 32_768;

/** Opens the database; a file's folder is made where it is missing. Every connection waits for a lock for a while. */
export function openDatabase(url: string): Client {
  if (url.startsWith('file:')) mkdirSync(path.dirname(url.slice('file:'.length)), { recursive: true });
  return createClient({ url, timeout: BUSY_TIMEOUT_MS, intMode: 'number' } as Parameters<
    typeof createClient
  >[0]);
}

/** Opens the database for reading: nothing can be written through it, and what is read often stays in memory. */
export async function openForReading(url: string): Promise<Database> {
  const client = openDatabase(url);
  await client.execute('PRAGMA query_only = ON');
  await client.execute(`PRAGMA cache_size = -${CACHE_KIB}`);
  return new LocalDatabase(client);
}

/** Opens the database for the one writer: journal set, migrated. */
export async function openForWriting(url: string, migrationsFolder: string): Promise<Database> {
  const client = openDatabase(url);
  if (url.startsWith('file:')) {
    await client.execute('PRAGMA journal_mode = WAL');
    // These two speed up the first connection; later ones of the pool begin with the defaults again. In WAL mode NORMAL
    // loses nothing when the process is killed, and nothing but the last moments when the machine loses power.
    await client.execute('PRAGMA synchronous = NORMAL');
    await client.execute(`PRAGMA cache_size = -${CACHE_KIB}`);
  }
  await migrate(drizzle(client), { migrationsFolder });
  return new LocalDatabase(client);
}
