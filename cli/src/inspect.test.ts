import { execFile } from 'node:child_process';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import os from 'node:os';
import path from 'node:path';
import { promisify } from 'node:util';
import { gzipSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { inspectFiles, type ResultOf } from './inspect';
import { Scratch } from './scratch';
import { summarise } from './summary';

let folder: string;
const scratch = new Scratch();
const at = (name: string): string => path.join(folder, name);
const T0 = 1_700_000_000_000;
const attribute = (key: string, stringValue: string): object => ({ key, value: { stringValue } });
const span = (
  spanId: number,
  parent: number,
  kind: number,
  from: number,
  to: number,
  attributes: object[] = []
): object => ({
  traceId: 'c'.repeat(32),
  spanId: String(spanId).padStart(16, '0'),
  parentSpanId: parent ? String(parent).padStart(16, '0') : '',
  name: 'work',
  kind,
  startTimeUnixNano: `${T0 + from}000000`,
  endTimeUnixNano: `${T0 + to}000000`,
  attributes
});
const batch = (...spans: object[]): string =>
  JSON.stringify({
    resourceSpans: [
      { resource: { attributes: [attribute('service.name', 'berths')] }, scopeSpans: [{ spans }] }
    ]
  });
const queries = Array.from({ length: 10 }, (_, i) =>
  span(i + 2, 1, 3, i * 20, i * 20 + 15, [
    attribute('db.system.name', 'sqlite'),
    attribute('db.query.text', `select * from line where id = ${i}`)
  ])
);

beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-inspect-'));
  await writeFile(at('root.json'), batch(span(1, 0, 2, 0, 220)));
  await writeFile(at('calls.jsonl.gz'), gzipSync(queries.map((one) => batch(one)).join('\n')));
  const nodes = ['(root)', 'work', '(idle)'].map((functionName, i) => ({
    id: i + 1,
    callFrame: { functionName, url: i === 1 ? 'file:///quay/a.js' : '', lineNumber: 9, columnNumber: 0 },
    children: i === 0 ? [2, 3] : []
  }));
  await writeFile(
    at('a.cpuprofile'),
    JSON.stringify({ nodes, startTime: 0, endTime: 3000, samples: [2, 3, 2], timeDeltas: [0, 1000, 1000] })
  );
  await writeFile(at('broken.bin'), 'what is this');
  await writeFile(at('empty'), '');
});
afterAll(async () => {
  scratch.close();
  await rm(folder, { recursive: true, force: true });
});

describe('inspect', () => {
  it('takes trace files as one analysis', async () => {
    const [result] = (await inspectFiles([at('calls.jsonl.gz'), at('root.json')], { top: 20, scratch })) as [
      ResultOf<'traces'>
    ];
    expect(result).toMatchObject({ kind: 'traces', spans: 11, traces: 1, rejected: [], warnings: [] });
    const [request] = result.requests;
    expect(request).toMatchObject({
      service: 'berths',
      durationNs: 220e6,
      startedAtUs: T0 * 1000,
      failed: false,
      clockShiftNs: 0
    });
    expect(request.ledger).toMatchObject({ database: 150e6, ownCode: 70e6 });
    expect(request.calls).toMatchObject([
      {
        kind: 'database',
        fingerprint: 'select * from line where id = ?',
        count: 10,
        distinct: 10,
        totalNs: 150e6,
        bookedNs: 150e6
      }
    ]);
    expect(request.findings.map(({ rule }) => rule)).toEqual(['query-per-row']);
    expect(result.endpoints).toMatchObject([
      { count: 1, p50Ns: 220e6, apdex: { tMs: 500, score: 1, satisfied: 1 } }
    ]);
  });

  it('reads folded stacks and allocation profiles, and says what the rules found', async () => {
    const folder = await mkdtemp(path.join(os.tmpdir(), 'tromix-inspect-'));
    const folded = path.join(folder, 'stacks.txt');
    await writeFile(folded, 'main;plan;sort 70\nmain;plan 20\nmain 10\n');
    const heap = path.join(folder, 'a.heapprofile');
    const frame = (functionName: string): object => ({
      functionName,
      url: 'file:///quay/a.js',
      lineNumber: 3,
      columnNumber: 0
    });
    const leaf = { callFrame: frame('stow'), selfSize: 4096, children: [] };
    await writeFile(
      heap,
      JSON.stringify({ head: { callFrame: frame('(root)'), selfSize: 0, children: [leaf] } })
    );
    const [stacks, allocations] = (await inspectFiles([folded, heap], { top: 20, scratch })) as [
      ResultOf<'profile'>,
      ResultOf<'profile'>
    ];
    expect(stacks).toMatchObject({
      kind: 'profile',
      format: 'folded-stacks',
      unit: 'count',
      valueType: 'cpu',
      total: 100
    });
    expect(stacks.findings[0]).toMatchObject({
      rule: 'hot-function',
      severity: 'high',
      figures: { share: 0.7 }
    });
    expect(allocations).toMatchObject({
      format: 'v8-heap-profile',
      unit: 'bytes',
      valueType: 'allocation',
      total: 4096
    });
    await rm(folder, { recursive: true });
  });

  it('tells a profile’s functions and heaviest branch', async () => {
    const [result] = (await inspectFiles([at('a.cpuprofile')], { top: 20, scratch })) as [
      ResultOf<'profile'>
    ];
    expect(result).toMatchObject({
      kind: 'profile',
      format: 'v8-cpu-profile',
      total: 2e6,
      idle: 1e6,
      samples: 3
    });
    expect(result.functions).toMatchObject([
      { name: 'work', line: 10, kind: 'app', self: 2e6, selfShare: 1, maxRecursion: 1 }
    ]);
    expect(result.heaviest).toMatchObject([{ name: 'work', share: 1 }]);
  });

  it('puts a worded error in the place of a file it cannot read, and reads the others', async () => {
    const results = await inspectFiles([at('broken.bin'), at('a.cpuprofile'), at('gone'), at('empty')], {
      top: 20,
      scratch
    });
    expect(results.map((result) => ('error' in result ? result.error.code : result.kind))).toEqual([
      'unknown-format',
      'profile',
      'not-found',
      'empty'
    ]);
    expect(results.flatMap((result) => [...summarise(result)]).join('')).toContain('could not be read');
  });

  it('prints one JSON document and nothing else, and exits with 2 where a file could not be read', async () => {
    const bin = path.resolve(import.meta.dirname, '../bin/tromix.mjs');
    const good = await promisify(execFile)(process.execPath, [bin, 'inspect', at('a.cpuprofile'), '--json']);
    expect(JSON.parse(good.stdout)).toMatchObject({ tromix: 1, results: [{ kind: 'profile' }] });
    const bad = await promisify(execFile)(process.execPath, [
      bin,
      'inspect',
      at('broken.bin'),
      '--json'
    ]).catch((error: { code: number; stdout: string }) => error);
    expect(bad).toMatchObject({ code: 2 });
    expect(JSON.parse((bad as { stdout: string }).stdout)).toMatchObject({
      results: [{ error: { code: 'unknown-format', offset: 0 } }]
    });
  });
});
