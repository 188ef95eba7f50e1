import { mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { createClient, type Transaction } from '@libsql/client';
import { fileOf } from './db/client';
import { StartError } from './start-error';

/** Held until the process ends; the system lets go of it however that happens. */
const held: Transaction[] = [];

/**
 * Makes sure that no other server works on the same data folder, or on the same database file. The lock is SQLite's own on an empty file
 * beside them: it ends with the process, so that one left behind by a killed server is none.
 * @throws StartError naming who holds it.
 */
export async function lockData(dataFolder: string, databaseUrl: string, port: string): Promise<void> {
  makeFolder(dataFolder);
  await lock(path.join(dataFolder, 'server.lock'), `The data folder ${dataFolder}`, port);
  const file = fileOf(databaseUrl);
  if (file && path.dirname(path.resolve(file)) !== path.resolve(dataFolder)) {
    makeFolder(path.dirname(file));
    await lock(`${file}.lock`, `The database ${file}`, port);
  }
}

function makeFolder(folder: string): void {
  try {
    // For this user alone: heap dumps hold whatever a process held.
    mkdirSync(folder, { recursive: true, mode: 0o700 });
    if (statSync(folder).isDirectory()) return;
  } catch (cause) {
    const { code, message } = cause as NodeJS.ErrnoException;
    if (code !== 'EEXIST' && code !== 'ENOTDIR')
      throw new StartError(`The folder ${folder} cannot be made: ${message}.`, { cause });
  }
  throw new StartError(
    `${folder} is a file where a folder is needed. Move it away, or name another folder in TROMIX_DATA.`
  );
}

async function lock(file: string, what: string, port: string): Promise<void> {
  const holder = `${file}.json`;
  try {
    // No waiting: whoever holds it does so for as long as it runs.
    const client = createClient({ url: `file:${file}`, timeout: 0 } as Parameters<typeof createClient>[0]);
    held.push(await client.transaction('write'));
    writeFileSync(
      holder,
      JSON.stringify({ pid: process.pid, host: os.hostname(), port, since: new Date().toISOString() })
    );
  } catch (cause) {
    const message = (cause as Error).message;
    if (/SQLITE_BUSY|locked/.test(message))
      throw new StartError(
        `${what} is in use by another Tromix server${holderOf(holder)}. Stop it first, or name another folder in TROMIX_DATA.`
      );
    throw new StartError(`${what} cannot be locked: ${message}.`, { cause });
  }
}

function holderOf(file: string): string {
  try {
    const { pid, host, port, since } = JSON.parse(readFileSync(file, 'utf8')) as Record<string, unknown>;
    return ` (process ${String(pid)} on ${String(host)}, port ${String(port)}, since ${String(since)})`;
  } catch {
    return '';
  }
}
