import { describe, expect, it } from 'vitest';
import { load, resource } from '../testing/page-load';
import { compareLoads } from './compare-loads';

const before = load({
  vitals: { lcp: 4000, cls: 0 },
  largest: { atMs: 4000, element: 'h1', url: '' },
  resources: [
    resource('document', '/board', 0, 300, { transferBytes: 1000 }),
    resource('script', '/charts.0af31c99.js', 300, 3000, { transferBytes: 800_000 }),
    resource('data', '/tides/1', 3000, 3100, { transferBytes: null })
  ],
  tasks: [{ startMs: 3100, endMs: 4000, script: '', function: 'drawTides' }]
});
const after = load({
  vitals: { lcp: 900, cls: 0, inp: 40 },
  largest: { atMs: 900, element: 'h1', url: '' },
  resources: [
    resource('document', '/board', 0, 300, { transferBytes: 1200 }),
    resource('script', '/charts.77b0e1d2.js', 1200, 2000, { transferBytes: 800_000 })
  ]
});

describe('two loads', () => {
  const compared = compareLoads({ before, after });
  it('have the parts of their ways side by side, which add up to each paint', () => {
    expect(compared.way.map(({ part, ms }) => [part, ms.before, ms.after])).toEqual([
      ['script', 2700, 0],
      ['task', 900, 0],
      ['nothing', 0, 600],
      ['data', 100, 0],
      ['document', 300, 300]
    ]);
    expect(compared.way.reduce((sum, { ms }) => sum + ms.before, 0)).toBe(4000);
    expect(compared.way.reduce((sum, { ms }) => sum + ms.after, 0)).toBe(900);
  });
  it('have the same file of another build in one row', () => {
    expect(compared.files.map(({ name, files }) => [name, files.before?.bytes, files.after?.bytes])).toEqual([
      ['/board', 1000, 1200],
      ['/charts.:id.js', 800_000, 800_000],
      ['/tides/:id', null, undefined]
    ]);
    expect(compared.tasks).toEqual({ before: { count: 1, ms: 900 }, after: { count: 0, ms: 0 } });
    expect(compared.vitals.at(-2)).toEqual({ vital: 'inp', values: { before: null, after: 40 } });
  });
});
