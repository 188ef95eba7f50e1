import { cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { conditionWords } from '@tromix/core/watch/words';
import { afterAll, expect, it } from 'vitest';
import { openForWriting } from '../db/client';
import { objectsOf } from '../db/database';
import { Plan } from '../record/plan-schema';
import * as v from 'valibot';
import { readWatches } from './stored';

const MIGRATIONS = path.resolve(import.meta.dirname, '../../../../drizzle');
/** The last version whose plans had a condition of their own. */
const LAST = 26;

const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-plans-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** The migrations up to that version. */
function earlierMigrations(): string {
  const earlier = path.join(folder, 'drizzle');
  cpSync(MIGRATIONS, earlier, { recursive: true });
  const file = path.join(earlier, 'meta/_journal.json');
  const journal = JSON.parse(readFileSync(file, 'utf8')) as { entries: { idx: number }[] };
  writeFileSync(
    file,
    JSON.stringify({ ...journal, entries: journal.entries.filter(({ idx }) => idx <= LAST) })
  );
  return earlier;
}

it('a plan that went by a p95 of its own goes by a watch that says the same; others stay', async () => {
  const url = `file:${path.join(folder, 'test.sqlite')}`;
  const order = { address: '127.0.0.1:9229', kind: 'cpu', seconds: 30, interval: 1000, keep: 48 };
  const when = { by: 'p95', service: 'tides', endpoint: "GET /tides/window's", overMs: 250.5 };
  const earlier = await openForWriting(url, earlierMigrations());
  await earlier.write(
    [
      ['slow', { ...order, when }],
      ['often', { ...order, when: { by: 'time', everyMinutes: 5 } }]
    ].map(([id, body]) => ({
      sql: 'INSERT INTO recording_plans (id, body, created_at_us) VALUES (?, ?, 1)',
      args: [String(id), JSON.stringify(body)]
    }))
  );
  await earlier.close();

  const database = await openForWriting(url, MIGRATIONS);
  const watches = await readWatches(database);
  expect(
    watches.map(({ id, watch }) => [id, conditionWords(watch.condition).replaceAll(/\s/gu, ' ')])
  ).toEqual([['slow', "p95 of GET /tides/window's of tides over 5 min above 251 ms"]]);
  expect(watches[0].watch.condition.limit).toMatchObject({ on: 250.5e6, off: 250.5e6 });
  const plans = await objectsOf<{ id: string; body: string }>(
    database,
    'SELECT id, body FROM recording_plans ORDER BY id'
  );
  expect(plans.map(({ body }) => v.parse(Plan, JSON.parse(body)).when)).toEqual([
    { by: 'time', everyMinutes: 5 },
    { by: 'watch', watch: 'slow' }
  ]);
  await database.close();
});
