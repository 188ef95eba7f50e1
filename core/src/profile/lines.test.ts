import { Session } from 'node:inspector/promises';
import { buildSync } from 'esbuild';
import { describe, expect, it } from 'vitest';

import { read } from '../testing/any-profile';

import { functionWeights } from './functions';
import { fileLines, fileWeights } from './lines';

import { slice } from './slice';
import { applySourceMaps } from './source-map';
import { readV8CpuProfile } from './v8-cpu';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
describe('lines', () => {
  const recorded = JSON.stringify({
    nodes: [
      {
        id: 1,
        callFrame: { functionName: '(root)', scriptId: '0', url: '', lineNumber: -1, columnNumber: -1 },
        children: [2]
      },
      {
        id: 2,
        callFrame: {
          functionName: 'plan',
          scriptId: '1',
          url: 'file:///quay/plan.js',
          lineNumber: 9,
          columnNumber: 0
        },
        positionTicks: [
          { line: 11, ticks: 3 },
          { line: 12, ticks: 1 }
        ],
        children: [3]
      },
      {
        id: 3,
        callFrame: {
          functionName: 'sort',
          scriptId: '1',
          url: 'file:///quay/plan.js',
          lineNumber: 20,
          columnNumber: 0
        }
      }
    ],
    startTime: 0,
    endTime: 8000,
    samples: [2, 2, 2, 2, 3, 3, 3, 3],
    timeDeltas: [0, 1000, 1000, 1000, 1000, 1000, 1000, 1000]
  });

  it('parts a node’s own weight by its ticks, and says what is known by function only', () => {
    const { profile } = readV8CpuProfile(bytes(recorded));
    const found = fileLines(profile, slice(profile), 'file:///quay/plan.js');
    expect(found.lines).toEqual([
      { line: 11, self: 3e6 },
      { line: 12, self: 1e6 },
      { line: 21, self: 4e6 }
    ]);
    expect(found).toMatchObject({ self: 8e6, withoutLine: 4e6 });
    expect(found.functions.map(({ line, total }) => [line, total])).toEqual([
      [10, 8e6],
      [21, 4e6]
    ]);
    expect(fileWeights(profile, slice(profile))).toEqual([
      { file: 'file:///quay/plan.js', self: 8e6, functions: 2 }
    ]);
    expect(found.inlined).toEqual([]);
  });

  it('tell where a function was put into its callers: its line weighs more than it does', () => {
    const callFrame = (functionName: string, lineNumber: number) => ({
      functionName,
      url: functionName === '(root)' ? '' : 'file:///quay/plan.js',
      lineNumber,
      columnNumber: 4
    });
    // `depth` begins at line 3. Most of its samples V8 counted for `survey`, at that line.
    const { profile } = readV8CpuProfile(
      bytes(
        JSON.stringify({
          nodes: [
            { id: 1, callFrame: callFrame('(root)', -1), children: [2] },
            {
              id: 2,
              callFrame: callFrame('survey', 9),
              children: [3],
              hitCount: 4,
              positionTicks: [
                { line: 3, ticks: 3 },
                { line: 12, ticks: 1 }
              ]
            },
            { id: 3, callFrame: callFrame('depth', 2), hitCount: 1, positionTicks: [{ line: 3, ticks: 1 }] }
          ],
          startTime: 0,
          endTime: 6000,
          samples: [2, 2, 2, 2, 3],
          timeDeltas: [1000, 1000, 1000, 1000, 1000]
        })
      )
    );
    const { inlined } = fileLines(profile, slice(profile), 'file:///quay/plan.js');
    expect(inlined).toHaveLength(1);
    expect(profile.frames[inlined[0].frame].name).toBe('depth');
    expect([inlined[0].line, inlined[0].self / inlined[0].total]).toEqual([3, 4]);
  });
});

describe('source maps', () => {
  const SOURCE = `export function tideTable(n: number): number {
  let sum = 0;
  for (let i = 0; i < n; i++) sum += Math.sqrt(i) % 3;
  return sum;
}

export const harbour = {
  sound(depth: number): number {
    return tideTable(depth * 1000);
  }
};
globalThis.measure = () => harbour.sound(4000);
`;

  // Outside check: a bundled and minified program (esbuild), recorded by V8, mapped back to the lines it was written in.
  it('map a minified program that V8 recorded back to its lines', async () => {
    const built = buildSync({
      stdin: { contents: SOURCE, loader: 'ts', sourcefile: 'tides.ts' },
      bundle: true,
      minify: true,
      write: false,
      sourcemap: 'external',
      outfile: '/quay/dist/app.js',
      format: 'iife'
    });
    const code = built.outputFiles.find(({ path }) => path.endsWith('.js'))!.text;
    const map = built.outputFiles.find(({ path }) => path.endsWith('.map'))!.text;
    expect(code.trim().split('\n').length).toBeLessThan(3);
    const { runInThisContext } = await import('node:vm');
    runInThisContext(code, { filename: 'file:///quay/dist/app.js' });
    const session = new Session();
    session.connect();
    await session.post('Profiler.enable');
    await session.post('Profiler.setSamplingInterval', { interval: 200 });
    await session.post('Profiler.start');
    const until = Date.now() + 250;
    while (Date.now() < until) (globalThis as unknown as { measure: () => number }).measure();
    const { profile: raw } = await session.post('Profiler.stop');
    session.disconnect();
    const { profile } = readV8CpuProfile(bytes(JSON.stringify(raw)));
    const mapped = applySourceMaps(profile, new Map([['file:///quay/dist/app.js', map]]));
    const [first] = functionWeights(mapped.profile.frames, mapped.profile, slice(mapped.profile)).filter(
      ({ frame }) => mapped.profile.frames[frame].file.endsWith('tides.ts')
    );
    const frame = mapped.profile.frames[first.frame];
    // The hot loop stands in tideTable, or in sound where the minifier or V8 put it in there.
    expect([1, 8]).toContain(frame.line);
    expect(frame.file).toMatch(/^file:\/\/\/quay\/.*tides\.ts$/);
    expect(mapped.sources.get(frame.file)).toBe(SOURCE);
    expect(mapped.warnings).toEqual([]);
  });

  it('map the top level of a file to its only original; of several it stays the built file’s', () => {
    const built = 'file:///quay/dist/app.js';
    const profile = readV8CpuProfile(
      bytes(
        JSON.stringify({
          nodes: [
            {
              id: 1,
              callFrame: { functionName: '(root)', url: '', lineNumber: -1, columnNumber: -1 },
              children: [2]
            },
            {
              id: 2,
              callFrame: { functionName: '', url: built, lineNumber: 0, columnNumber: 0 },
              children: [3]
            },
            {
              id: 3,
              callFrame: { functionName: '', url: built, lineNumber: 0, columnNumber: 9 },
              children: []
            }
          ],
          startTime: 0,
          endTime: 2000,
          samples: [2, 3],
          timeDeltas: [0, 1000]
        })
      )
    ).profile;
    const framesBy = (sources: string[]): string[] =>
      applySourceMaps(
        profile,
        new Map([[built, JSON.stringify({ version: 3, sources, names: [], mappings: 'SAEA' })]])
      )
        .profile.frames.slice(1)
        .map(({ name, file, line }) => `${name} ${file}:${line}`);
    expect(framesBy(['../src/tides.ts'])).toEqual([
      '(top level) file:///quay/src/tides.ts:1',
      '(anonymous) file:///quay/src/tides.ts:3'
    ]);
    expect(framesBy(['../src/tides.ts', '../src/berths.ts'])[0]).toBe(`(top level) ${built}:1`);
  });

  it('that do not fit, or are none, leave the frames as recorded and are counted', () => {
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['a', 0]
      ],
      samples: [[1, 0]]
    });
    const other = JSON.stringify({ version: 3, sources: ['x.ts'], names: [], mappings: '' });
    for (const map of ['{ not json', other, '{"version":2}']) {
      const mapped = applySourceMaps(profile, new Map([['file:///quay/plan.js', map]]));
      expect(mapped.profile.frames).toEqual(profile.frames);
      expect(mapped.warnings).toMatchObject([{ code: 'map-does-not-fit', count: 1 }]);
    }
  });
});
