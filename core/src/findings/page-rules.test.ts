import { describe, expect, it } from 'vitest';
import { chainToPaint } from '../pages/chain';
import type { PageLoad } from '../pages/page-load';
import { load, resource } from '../testing/page-load';
import { findInPage, type PageRule } from './page-rules';

const found = (one: PageLoad) => findInPage({ load: one, chain: chainToPaint(one) });
const rules = (one: PageLoad): PageRule[] => found(one).map(({ rule }) => rule);
const plain = (text: string): string => text.replace(/[\u202f\u00a0]/g, ' ');
const phases = (requestStartMs: number, responseStartMs: number) => ({
  lookupStartMs: null,
  lookupEndMs: null,
  connectStartMs: null,
  secureStartMs: null,
  connectEndMs: null,
  requestStartMs,
  responseStartMs
});
const document = resource('document', '/board', 0, 340, { phases: phases(20, 300) });
const paint = (atMs: number, url = '') => ({ atMs, element: 'main > img', url });

describe('script before the largest paint', () => {
  const scripts = (more = {}) => [
    resource('script', 'https://q/app.js', 340, 1500, { transferBytes: 400_000 }),
    resource('script', 'https://q/charts.js', 340, 2300, { transferBytes: 812_000, ...more })
  ];
  it('says how many, how large, and what it could be without the last', () => {
    const [one] = found(
      load({ largest: paint(3000), resources: [document, ...scripts({ unusedShare: 0.9 })] })
    );
    expect(one).toMatchObject({ rule: 'script-before-paint', evidence: { resources: [1, 2] } });
    expect(one.figures).toMatchObject({ bookedMs: 1960, gainMs: 800 });
    expect(plain(one.sentence)).toMatch(
      /^2 scripts, 1\.21 MB, came before the largest paint; 1\.96 s of its 3 s went by .* Without charts\.js, 90 % of it unused until then, it could come 800 ms sooner at best\.$/
    );
  });
  it('does not claim a size that is not told for all', () => {
    const [one] = found(
      load({ largest: paint(3000), resources: [document, ...scripts({ transferBytes: null })] })
    );
    expect(plain(one.sentence)).toMatch(/^2 scripts came before/);
  });
  it('is silent where it is little of the way, or came after', () => {
    const short = [document, resource('script', 'a.js', 340, 700)];
    expect(rules(load({ largest: paint(3000), resources: short }))).toEqual([]);
    expect(rules(load({ largest: paint(400), resources: [document, ...scripts()] }))).toEqual([]);
  });
});

describe('a late picture', () => {
  const at = (startMs: number) =>
    load({
      largest: paint(4000, 'https://q/harbour.webp'),
      resources: [document, resource('picture', 'https://q/harbour.webp', startMs, 3950)]
    });
  it('was asked for long after the document began to come', () => {
    const [one] = found(at(3500));
    expect(one.rule).toBe('late-picture');
    expect(plain(one.sentence)).toBe(
      'harbour.webp, the largest paint, was asked for 3.2 s after the document’s first byte; it took 450 ms itself.'
    );
    expect(rules(at(700))).toEqual([]);
  });
  it('is none where a text is painted, or what was painted is not among the resources', () => {
    expect(rules(load({ largest: paint(4000), resources: [document] }))).toEqual([]);
    expect(rules(load({ largest: paint(4000, 'https://q/other.webp'), resources: [document] }))).toEqual([]);
  });
});

describe('a long task', () => {
  const task = (endMs: number, name = 'drawTides') =>
    load({
      largest: paint(4000),
      resources: [document],
      tasks: [{ startMs: 3000, endMs, script: name && 'https://q/board.js', function: name }]
    });
  it('on the way is named with its script and function', () => {
    const [one] = found(task(3988));
    expect(plain(one.sentence)).toBe(
      'drawTides (board.js) held the page for 988 ms; 988 ms of it, 25 %, are on the way to the largest paint.'
    );
    expect(plain(found(task(3988, ''))[0].sentence)).toMatch(
      /^A task, of which the browser tells no script, held/
    );
  });
  it('that is short is none', () => expect(rules(task(3400))).toEqual([]));
});

describe('a slow first byte', () => {
  const withByte = (ttfb: number, told: boolean) =>
    load({
      vitals: { ttfb },
      resources: [resource('document', '/board', 0, 2000, { phases: told ? phases(100, ttfb) : null })]
    });
  it('tells the server from the way to it, where that is told', () => {
    expect(plain(found(withByte(1900, true))[0].sentence)).toMatch(
      /took 1\.8 s; before that, 100 ms went to reaching/
    );
    expect(plain(found(withByte(1900, false))[0].sentence)).toContain(
      'How much of it the server took is not told.'
    );
    expect(rules(withByte(800, true))).toEqual([]);
  });
});

it('shifts over the good limit are found', () => {
  expect(rules(load({ vitals: { cls: 0.1 } }))).toEqual([]);
  expect(found(load({ vitals: { cls: 0.12 } }))).toMatchObject([{ rule: 'shifts', severity: 'medium' }]);
  expect(found(load({ vitals: { cls: 0.3 } }))).toMatchObject([{ severity: 'high' }]);
});

describe('code that nothing used before the paint', () => {
  const unused = (unusedShare: number | null, endMs = 900) =>
    rules(
      load({
        largest: paint(1000),
        resources: [resource('style', 'a.css', 890, endMs, { transferBytes: 300_000, unusedShare })]
      })
    );
  it('is told where coverage is known', () => {
    expect(unused(0.8)).toEqual(['unused-before-paint']);
    expect(unused(0.2)).toEqual([]);
    expect(unused(null)).toEqual([]);
    expect(unused(0.8, 2000)).toEqual([]);
  });
});
