import { execFileSync } from 'node:child_process';
import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { createClient } from '@libsql/client';
import { build } from 'esbuild';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { openWriter, sendRequests } from '$lib/testing/sent-requests';

const SOURCE = `
class BerthTaken extends Error { name = 'BerthTaken' }
function reserve(berth) {
  if (berth > 0) throw new BerthTaken('berth ' + berth + ' is taken');
}
export function plan(berth) {
  try { reserve(berth); } catch (error) { console.log(error.stack); }
}
plan(Number(process.argv[2]));
`;
let folder: string;

/** The stack that Node.js itself writes. */
const stackOf = (file: string, berth: number): string =>
  execFileSync(process.execPath, [file, String(berth)], { encoding: 'utf8' }).trim();

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-maps-'));
  await mkdir(path.join(folder, 'berths'));
  await writeFile(path.join(folder, 'berths/plan.mjs'), SOURCE);
  await build({
    entryPoints: [path.join(folder, 'berths/plan.mjs')],
    outfile: path.join(folder, 'dist/bundle.js'),
    bundle: true,
    minify: true,
    sourcemap: true,
    format: 'cjs',
    platform: 'node'
  });
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const text = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const thrown = (trace: number, type: string, stack: string): object => ({
  resource: { attributes: [text('service.name', 'berths')] },
  scopeSpans: [
    {
      spans: [
        {
          traceId: trace.toString(16).padStart(32, '0'),
          spanId: trace.toString(16).padStart(16, '0'),
          name: 'GET',
          kind: 2,
          startTimeUnixNano: `${Date.now() - 1000}000000`,
          endTimeUnixNano: `${Date.now()}000000`,
          status: { code: 2 },
          events: [
            {
              timeUnixNano: `${Date.now() - 500}000000`,
              name: 'exception',
              attributes: [
                text('exception.type', type),
                text('exception.message', `berth ${trace} is taken`),
                text('exception.stacktrace', stack)
              ]
            }
          ]
        }
      ]
    }
  ]
});

async function groupsWith(sources: string[]): Promise<unknown[][]> {
  const url = `file:${path.join(await mkdtemp(path.join(folder, 'db-')), 'test.sqlite')}`;
  const writer = await openWriter(url, sources);
  const client = createClient({ url });
  await sendRequests(writer, [
    thrown(3, 'BerthTaken', stackOf(path.join(folder, 'berths/plan.mjs'), 3)),
    thrown(7, 'BerthTaken', stackOf(path.join(folder, 'dist/bundle.js'), 7))
  ]);
  const { rows } = await client.execute('SELECT function, file FROM failure_groups ORDER BY id');
  await writer.close();
  client.close();
  return rows.map((row) => Array.from(row));
}

it('a program is known by its original, built and minified or not', async () => {
  expect(await groupsWith([folder])).toEqual([['reserve', 'berths/plan.mjs']]);
});

it('without its map the built one is another', async () => {
  expect(await groupsWith([])).toHaveLength(2);
});
