import { existsSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import { openWriter } from '$lib/testing/sent-requests';
import type { Changes, ChangeName } from '../ingest/changes';
import type { Writer } from '../ingest/writer';
import { EvidenceStore } from './evidence-store';

let folder: string;
let url: string;
let writer: Writer;
vi.mock('../settings', () => ({ settings: () => ({ databaseUrl: url, dataFolder: folder }) }));
vi.mock('../workers', async () => ({
  ...(await import('$lib/testing/local-workers')).localWorkers(() => url),
  change: <N extends ChangeName>(name: N, ...args: Parameters<Changes[N]>) => writer.change(name, ...args)
}));
const { removeExpired } = await import('./expire');

const NOW = Date.now();
const DAY = 86_400_000;

async function put(text: string, keepUntilMs: number | null): Promise<string> {
  const store = new EvidenceStore(folder);
  const taken = await store.take(
    (async function* () {
      yield Buffer.from(text);
    })(),
    1e6
  );
  await store.keep(taken);
  await writer.addEvidence({
    id: taken.id,
    kind: 'crash',
    format: 'crash-text',
    name: text,
    bytes: taken.bytes,
    service: 'tides',
    host: '',
    release: '',
    pid: 0,
    startedAtUs: NOW * 1000,
    durationNs: 0,
    receivedAtUs: NOW * 1000,
    summary: '{}',
    keepUntilUs: keepUntilMs === null ? null : keepUntilMs * 1000
  });
  return taken.id;
}

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-expire-'));
  url = `file:${path.join(folder, 'test.sqlite')}`;
  writer = await openWriter(url);
});
afterAll(async () => {
  await writer.close();
  await rm(folder, { recursive: true, force: true });
});

it('what was to be kept for some days goes with its file; what stays, is not over yet, or stands in a case does not', async () => {
  const over = await put('over', NOW - 1);
  const stays = [
    await put('for good', null),
    await put('for a day', NOW + DAY),
    await put('in a case', NOW - DAY)
  ];
  const client = createClient({ url });
  await client.execute({ sql: "INSERT INTO case_evidence VALUES ('c', 'file', ?)", args: [stays[2]] });
  expect(await removeExpired(NOW)).toBe(1);
  const { rows } = await client.execute('SELECT id FROM evidence');
  client.close();
  expect(rows.map((row) => row.id).sort()).toEqual(stays.toSorted());
  const store = new EvidenceStore(folder);
  expect(existsSync(store.pathOf(over))).toBe(false);
  expect(existsSync(store.pathOf(stays[2]))).toBe(true);
  expect(await removeExpired(NOW + 2 * DAY)).toBe(1);
});
