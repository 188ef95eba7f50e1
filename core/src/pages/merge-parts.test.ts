import { describe, expect, it } from 'vitest';
import { load, resource } from '../testing/page-load';
import { mergeParts } from './merge-parts';

describe('parts of a load', () => {
  const first = {
    part: 1,
    load: load({
      atUs: 2000,
      vitals: { ttfb: 100, lcp: 800 },
      largest: { atMs: 800, element: 'h1', url: '' },
      loadedMs: 900,
      resources: [resource('document', '/board', 0, 100), resource('script', '/app.js', 110, 300)],
      leftOut: 2
    })
  };
  const second = {
    part: 2,
    load: load({
      atUs: 1500,
      vitals: { lcp: 1200, cls: 0.1, inp: 40 },
      largest: { atMs: 1200, element: 'img', url: '/harbour.webp' },
      resources: [resource('data', '/tides', 5000, 5100)],
      steps: [{ atMs: 4990, kind: 'click', label: 'Tides' }],
      errors: [{ atMs: 5200, type: 'TypeError', message: 'x is not a function', stack: '' }]
    })
  };

  it('tell it together, what goes on as the later one does', () => {
    const { load: told, part } = mergeParts(first, second);
    expect(part).toBe(2);
    expect(told.atUs).toBe(1500);
    expect(told.vitals).toEqual({ ttfb: 100, lcp: 1200, cls: 0.1, inp: 40 });
    expect(told.largest?.url).toBe('/harbour.webp');
    expect(told.loadedMs).toBe(900);
    expect(told.resources.map(({ url }) => url)).toEqual(['/board', '/app.js', '/tides']);
    expect(told.steps).toHaveLength(1);
    expect(told.errors).toHaveLength(1);
    expect(told.leftOut).toBe(2);
  });

  it('tell the same in the other order, and sent twice', () => {
    const whole = mergeParts(first, second);
    const turned = mergeParts(second, first);
    expect(turned.load).toEqual(whole.load);
    expect(mergeParts(whole, second)).toEqual(whole);
    expect(mergeParts(whole, first).load.vitals).toEqual(whole.load.vitals);
  });
});
