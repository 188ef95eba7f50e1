import { execFile } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { gzipSync } from 'node:zlib';
import { readCompareOutput } from '@tromix/core/compare/output-schema';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const BIN = path.resolve(import.meta.dirname, '../bin/tromix.mjs');
const RECORDINGS = path.resolve(import.meta.dirname, '../../workload/recordings');
/** What Quillhaven's processes were recorded to: their CPU, and what they allocate. */
const [CPU, ALLOCATION] = ['cpu-', 'allocation-'].map((kind) =>
  path.join(
    RECORDINGS,
    readdirSync(RECORDINGS).find((name) => name.startsWith(kind))!
  )
);
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
  writeFileSync(path.join(folder, 'stacks.txt'), 'main;board 12\nmain;rank 36\n');
  writeFileSync(path.join(folder, 'later.txt'), 'main;board 30\nmain;rank 10\n');
  const budget = (endpoint: object, more: object = {}): string =>
    JSON.stringify({
      budget: 1,
      endpoints: [{ service: 'berths', endpoint: 'GET /board', ...endpoint }],
      ...more
    });
  writeFileSync(path.join(folder, 'typo.json'), budget({ medianMS: 3 }));
  writeFileSync(
    path.join(folder, 'budget.json'),
    budget({ medianMs: 50, slowerBy: 0.1, forbidden: ['query-per-row'] })
  );
  writeFileSync(
    path.join(folder, 'functions.json'),
    JSON.stringify({ budget: 1, functions: [{ name: 'rank', share: 0.5 }] })
  );
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

interface Ended {
  code: number | null;
  out: string;
  error: string;
}
const tromix = (...args: string[]): Promise<Ended> =>
  new Promise((resolve) => {
    const child = execFile(process.execPath, [BIN, ...args], { cwd: folder }, (_, out, error) =>
      resolve({ code: child.exitCode, out, error })
    );
  });
const compare = (...args: string[]): Promise<Ended> => tromix('compare', ...args);

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

  it('prints what its published schema says, of traces, profiles and a budget', async () => {
    const printed = [
      await compare('--json', '--budget', 'budget.json', 'a.json', '--', 'b.json.gz'),
      await compare('--json', 'a.json', 'stacks.txt', '--', 'b.json.gz', 'later.txt')
    ];
    for (const { out } of printed) expect(readCompareOutput(JSON.parse(out)).tromix).toBe(1);
  });

  it.each([
    [['a.json'], 'Expected files of both sides'],
    [['--', 'a.json'], 'Expected files of both sides'],
    [['a.json', '--', 'none.json'], 'There is no file none.json.'],
    [['a.json', '--', 'stacks.txt'], 'Side A has no profiles, which the other has.'],
    [['a.json', '--', 'b.json.gz', '--strict'], 'Options stand before the files'],
    [[CPU, '--', ALLOCATION], 'do not measure the same thing'],
    [['--format', 'junit', 'a.json', '--', 'b.json.gz'], 'name one by --budget'],
    [['--budget', 'typo.json', 'a.json', '--', 'b.json.gz'], 'typo.json: endpoints 1 medianMS'],
    [['--budget', 'none.json', 'a.json', '--', 'b.json.gz'], 'There is no file none.json.']
  ])('refuses %j with 2', async (args, words) => {
    const { code, out, error } = await compare(...args);
    expect({ code, out }).toEqual({ code: 2, out: '' });
    expect(error).toContain(words);
  });
});

describe('a budget on the command line', () => {
  it('is kept by the later side, broken by the earlier, and exits with 0 and 1', async () => {
    const kept = await compare('--budget', 'budget.json', 'a.json', '--', 'b.json.gz');
    expect(kept.out).toMatch(/kept +berths GET \/board: median 16 ms \(95 %: .*\), at most 50 ms/);
    expect(kept.code).toBe(0);
    const broken = await compare('--budget', 'budget.json', 'b.json.gz', '--', 'a.json');
    expect(broken.out).toMatch(/BROKEN +berths GET \/board: median against A/);
    expect(broken.out).toMatch(/BROKEN +berths GET \/board: requests with query-per-row 40, at most 0/);
    expect(broken.out).toContain('3 budgets: 3 broken, 0 not told, 0 kept');
    expect(broken.code).toBe(1);
  });

  it('is told as JUnit XML and as Markdown', async () => {
    const { out } = await compare(
      '--budget',
      'budget.json',
      '--format',
      'junit',
      'b.json.gz',
      '--',
      'a.json'
    );
    expect(out).toContain('<testsuites tests="3" failures="3" errors="0">');
    expect(out.match(/<testcase /g)).toHaveLength(3);
    expect(out).toMatch(/<failure message="92 ms \(95 %: [^"]*\), at most 50 ms"\/>/);
    const markdown = await compare(
      '--budget',
      'budget.json',
      '--format',
      'markdown',
      'a.json',
      '--',
      'b.json.gz'
    );
    expect(markdown.out).toMatch(/^\*\*3 budgets: 0 broken/);
    expect(markdown.out).toContain('### berths GET /board');
  });

  it('written from the figures of today is kept by them', async () => {
    const { out, code } = await tromix('budget', 'init', 'a.json');
    expect(code).toBe(0);
    writeFileSync(path.join(folder, 'written.json'), out);
    const checked = await tromix('budget', 'check', 'written.json', 'a.json');
    expect(checked.out).toMatch(/kept +berths GET \/board: median 92 ms/);
    expect(checked.error).toContain('1 budget of a change not judged');
    expect(checked.code).toBe(0);
  });

  it('cannot be told without its endpoint, and exits with 2', async () => {
    const budget = { budget: 1, endpoints: [{ service: 'tides', endpoint: 'GET /tides', medianMs: 3 }] };
    writeFileSync(path.join(folder, 'other.json'), JSON.stringify(budget));
    const { out, code } = await tromix('budget', 'check', 'other.json', 'a.json');
    expect(out).toContain('There are no requests of it.');
    expect(code).toBe(2);
  });

  it('of a function counts its share of the profile', async () => {
    const { out, code } = await compare('--budget', 'functions.json', 'stacks.txt', '--', 'later.txt');
    expect(out).toMatch(/75.% +25.% +−50.%.*rank/);
    expect(out).toMatch(/kept +rank: share of the profile 25.%/);
    expect(code).toBe(0);
    expect((await compare('--budget', 'functions.json', 'later.txt', '--', 'stacks.txt')).code).toBe(1);
  });
});
