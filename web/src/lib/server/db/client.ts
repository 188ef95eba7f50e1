import { mkdirSync } from 'node:fs';
import path from 'node:path';
import { createClient, type Client } from '@libsql/client';

const BUSY_TIMEOUT_MS = 5000;

/** Opens the database; a file's folder is made where it is missing. Every connection waits for a lock for a while. */
export function openDatabase(url: string): Client {
  if (url.startsWith('file:')) mkdirSync(path.dirname(url.slice('file:'.length)), { recursive: true });
  return createClient({ url, timeout: BUSY_TIMEOUT_MS, intMode: 'number' } as Parameters<
    typeof createClient
  >[0]);
}
