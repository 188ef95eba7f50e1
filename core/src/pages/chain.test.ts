import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { chainToPaint, type ChainStep } from './chain';
import { loadLedger } from './load-ledger';
import { load, resource } from '../testing/page-load';
import type { PageLoad, ResourceKind } from './page-load';

/** Steps as one reads them: what, from and to. */
const told = (one: PageLoad): string[] =>
  chainToPaint(one).map((step) => {
    const name = step.of === 'resource' ? one.resources[step.index].url : step.of === 'task' ? 'task' : '–';
    return `${name} ${step.fromMs} ${step.toMs}`;
  });

describe('the way to the largest paint', () => {
  it('goes over the document, the script that came last, what ran, and the picture', () => {
    const one = load({
      largest: { atMs: 4120, element: 'img', url: 'harbour.webp' },
      resources: [
        resource('document', '/board', 0, 340),
        resource('style', 'a.css', 360, 600),
        resource('script', 'app.js', 360, 2400),
        resource('script', 'charts.js', 360, 2600),
        resource('data', '/tides', 2700, 2900),
        resource('picture', 'harbour.webp', 3560, 4060),
        resource('font', 'sans.woff2', 3000, 3550),
        resource('picture', 'later.webp', 4200, 5000)
      ],
      tasks: [
        { startMs: 2600, endMs: 3030, script: 'app.js', function: 'start' },
        { startMs: 3030, endMs: 4018, script: 'board.js', function: 'drawTides' }
      ]
    });
    expect(told(one)).toEqual([
      '/board 0 340',
      '– 340 360',
      'charts.js 360 2600',
      'task 2600 3030',
      'task 3030 3560',
      'harbour.webp 3560 4060',
      '– 4060 4120'
    ]);
    const ledger = loadLedger(one, chainToPaint(one));
    expect(ledger.file).toBe((2240 + 500) * 1e6);
    expect(ledger.remote).toBe(340e6);
    expect(ledger.ownCode).toBe((430 + 530) * 1e6);
    expect(ledger.unseen).toBe(80e6);
  });

  it('to a text waits for what the text came with', () => {
    const one = load({
      largest: { atMs: 900, element: 'h1', url: '' },
      resources: [resource('document', '/', 0, 700), resource('picture', 'x.png', 710, 890)]
    });
    expect(told(one)).toEqual(['/ 0 700', '– 700 900']);
  });

  it('says of a paint before anything was told that nothing is known', () => {
    expect(told(load({ largest: { atMs: 500, element: '', url: '' } }))).toEqual(['– 0 500']);
    expect(told(load({ largest: null }))).toEqual([]);
    expect(told(load({ largest: { atMs: 0, element: '', url: '' } }))).toEqual([]);
  });

  it('takes the picture that was painted before what ended with it', () => {
    const one = load({
      largest: { atMs: 100, element: 'img', url: 'a.png' },
      resources: [resource('script', 'a.js', 0, 100), resource('picture', 'a.png', 40, 100)]
    });
    expect(told(one)).toEqual(['a.js 0 40', 'a.png 40 100']);
  });

  const kinds: ResourceKind[] = ['document', 'style', 'script', 'data', 'picture', 'font', 'other'];
  it('always tiles the time to the paint, and its ledger adds up to it', () => {
    const interval = fc.tuple(fc.integer({ min: -50, max: 900 }), fc.integer({ min: -20, max: 400 }));
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...kinds), interval), { maxLength: 12 }),
        fc.array(interval, { maxLength: 6 }),
        fc.integer({ min: 1, max: 1000 }),
        fc.nat({ max: 12 }),
        (files, tasks, atMs, shown) => {
          const one = load({
            largest: { atMs, element: '', url: shown < files.length ? String(shown) : '' },
            resources: files.map(([kind, [from, long]], i) => resource(kind, String(i), from, from + long)),
            tasks: tasks.map(([from, long]) => ({
              startMs: from,
              endMs: from + long,
              script: '',
              function: ''
            }))
          });
          const chain = chainToPaint(one);
          let at = 0;
          for (const { fromMs, toMs } of chain) {
            expect(fromMs).toBe(at);
            expect(toMs).toBeGreaterThan(fromMs);
            at = toMs;
          }
          expect(at).toBe(atMs);
          const seen = chain.filter(
            (step): step is Exclude<ChainStep, { of: 'nothing' }> => step.of !== 'nothing'
          );
          expect(new Set(seen.map(({ of, index }) => `${of} ${index}`)).size).toBe(seen.length);
          const sum = Object.values(loadLedger(one, chain)).reduce((all, ns) => all + ns, 0);
          expect(sum).toBe(atMs * 1e6);
        }
      )
    );
  });
});
