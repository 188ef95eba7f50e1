import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const BIN = path.resolve(import.meta.dirname, '../bin/tromix.mjs');
const REQUESTS = 40;
let folder: string;

const attribute = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const hex = (value: number, length: number): string => value.toString(16).padStart(length, '0');

/** Requests a second apart, each of which asks as often as said, 4 ms a time. */
function board(queries: number, first: number): string {
  const spans = Array.from({ length: REQUESTS }, (_, i) => {
    const traceId = hex(first + i, 32);
    const startMs = 1_700_000_000_000 + (first + i) * 1000;
    const at = (ms: number): string => `${startMs + ms}000000`;
    const ask = (n: number): object => ({
      traceId,
      spanId: hex(n + 2, 16),
      parentSpanId: hex(1, 16),
      kind: 3,
      name: 'ask',
      startTimeUnixNano: at(5 + 4 * n),
      endTimeUnixNano: at(9 + 4 * n),
      attributes: [
        attribute('db.system.name', 'sqlite'),
        attribute(
          'db.query.text',
          queries > 1 ? `select * from berth where id = ${n}` : 'select * from berth where id in (1, 2)'
        )
      ]
    });
    const root = {
      traceId,
      spanId: hex(1, 16),
      kind: 2,
      name: 'GET /board',
      startTimeUnixNano: at(0),
      endTimeUnixNano: at(10 + 4 * queries + (i % 5))
    };
    return [root, ...Array.from({ length: queries }, (_unused, n) => ask(n))];
  }).flat();
  const resource = { attributes: [attribute('service.name', 'berths')] };
  return JSON.stringify({ resourceSpans: [{ resource, scopeSpans: [{ spans }] }] });
}

beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-compare-'));
  writeFileSync(path.join(folder, 'a.json'), board(20, 1));
  writeFileSync(path.join(folder, 'b.json.gz'), gzipSync(board(1, 1001)));
  writeFileSync(path.join(folder, 'stacks.txt'), 'main;board 12\n');
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const compare = (...args: string[]): Promise<{ code: number | null; out: string; error: string }> =>
  new Promise((resolve) => {
    const child = execFile(process.execPath, [BIN, 'compare', ...args], { cwd: folder }, (_, out, error) =>
      resolve({ code: child.exitCode, out, error })
    );
  });

describe('tromix compare', () => {
  it('says what became faster, by which part, and which finding is gone', async () => {
    const { code, out } = await compare('a.json', '--', 'b.json.gz');
    expect(code).toBe(0);
    expect(out).toMatch(/^berths GET \/board\n {2}Clearly faster: median 92 ms → 16 ms, −83.% to −8\d.%\. /);
    expect(out).toMatch(
      /−76 ms +−76 ms +0 ns +20 × → 1 × +select \* from berth where id = \? → select \* from berth where id in/
    );
    expect(out).toMatch(/query-per-row: gone, in 40 → 0 requests/);
  });

  it('says the opposite with the sides swapped, and nothing of equal ones', async () => {
    expect((await compare('b.json.gz', '--', 'a.json')).out).toContain(
      'Clearly slower: median 16 ms → 92 ms'
    );
    const { out } = await compare('a.json', '--', 'a.json');
    expect(out).toContain('No clear change');
    expect(out).toContain('Both sides are the same requests.');
  });

  it('is one JSON document on request', async () => {
    const { endpoints, files } = JSON.parse((await compare('--json', 'a.json', '--', 'b.json.gz')).out) as {
      endpoints: { endpoint: string; comparison: { requests: object; sure: { verdict: string } } }[];
      files: object;
    };
    expect(files).toEqual({ before: ['a.json'], after: ['b.json.gz'] });
    expect(endpoints).toMatchObject([
      {
        endpoint: 'GET /board',
        comparison: { requests: { before: 40, after: 40 }, sure: { verdict: 'faster' } }
      }
    ]);
  });

  it.each([
    [['a.json'], 'Expected files of both sides'],
    [['--', 'a.json'], 'Expected files of both sides'],
    [['a.json', '--', 'none.json'], 'There is no file none.json.'],
    [['a.json', '--', 'stacks.txt'], 'Expected traces, but it is a profile.']
  ])('refuses %j with 2', async (args, words) => {
    const { code, out, error } = await compare(...args);
    expect({ code, out }).toEqual({ code: 2, out: '' });
    expect(error).toContain(words);
  });
});
