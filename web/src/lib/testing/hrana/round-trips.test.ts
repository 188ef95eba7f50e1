import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { createClient } from '@libsql/client';
import { openForReading } from '$lib/server/db/client';
import { openWriter, request, sendRequests } from '../sent-requests';
import { startHrana, type HranaServer } from './server';

let folder: string;
let server: HranaServer;
beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-hrana-'));
  server = await startHrana();
});
afterAll(async () => {
  await server.close();
  await rm(folder, { recursive: true, force: true });
});
const NOW = Date.now();
const batch = (trace: number, count: number): Uint8Array =>
  new TextEncoder().encode(
    JSON.stringify({
      resourceSpans: Array.from({ length: count }, (_, i) =>
        request({ trace: trace + i, at: NOW - 1000, ms: 50, queries: 3 })
      )
    })
  );

describe('a libSQL server as the database', () => {
  it('is migrated, written and read like a file', async () => {
    const url = server.urlOf(path.join(folder, 'whole.sqlite'));
    const writer = await openWriter(url);
    await sendRequests(writer, [request({ trace: 1, at: NOW - 2000, ms: 40, queries: 3 })]);
    const reading = await openForReading(url);
    const { rows } = await reading.query('SELECT count(*), max(duration_ns) FROM requests');
    expect(rows).toEqual([[1, 40e6]]);
    await writer.close();
  });

  it('takes a batch whose names are known in at most three round trips', async () => {
    const file = path.join(folder, 'trips.sqlite');
    const writer = await openWriter(server.urlOf(file));
    await writer.ingest(batch(1, 20), 'json', false);
    const before = server.roundTrips(file);
    expect((await writer.ingest(batch(100, 100), 'json', false)).spans).toBe(400);
    const trips = server.roundTrips(file) - before;
    expect(trips).toBeGreaterThan(0);
    expect(trips).toBeLessThanOrEqual(3);
    await writer.close();
  });

  it('takes all of a write or nothing of it', async () => {
    const client = createClient({ url: server.urlOf(path.join(folder, 'all.sqlite')) });
    await client.execute('CREATE TABLE berths (id INTEGER PRIMARY KEY, name TEXT NOT NULL)');
    await expect(
      client.batch(["INSERT INTO berths VALUES (1, 'north')", 'INSERT INTO berths VALUES (2, NULL)'], 'write')
    ).rejects.toThrow(/NOT NULL/);
    expect((await client.execute('SELECT * FROM berths')).rows).toEqual([]);
    const transaction = await client.transaction('write');
    await transaction.execute("INSERT INTO berths VALUES (1, 'north')");
    await transaction.commit();
    const { rows } = await client.execute({ sql: 'SELECT name FROM berths WHERE id = ?', args: [1n] });
    expect(rows.map((row) => row[0])).toEqual(['north']);
    client.close();
  });
});
