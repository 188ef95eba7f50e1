import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { HolderBox } from '@tromix/core/heap/holders';
import { HEAP_PARAMS, SHOWS, type HeapState } from './heap-state';
import { layOutHolders, type MapBox } from './treemap';

type Inside = HolderBox['inside'][number];
const box = (name: string, retainedBytes: number, inside: Partial<Inside>[] = []): HolderBox =>
  ({ name, retainedBytes, count: 1, object: 1, own: true, inside }) as HolderBox;
const overlap = (a: MapBox, b: MapBox): boolean =>
  a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

describe('the map of what holds the heap', () => {
  const sizes = fc.array(fc.integer({ min: 1, max: 1e9 }), { minLength: 1, maxLength: 12 });

  it('lays every holder inside the frame, none over another, larger ones no smaller', () => {
    fc.assert(
      fc.property(sizes, (bytes) => {
        const laid = layOutHolders(
          bytes.map((one, i) => box(`holder ${i}`, one)),
          900,
          300
        );
        for (const one of laid) {
          expect(one.x).toBeGreaterThanOrEqual(0);
          expect(one.y).toBeGreaterThanOrEqual(0);
          expect(one.x + one.width).toBeLessThanOrEqual(900);
          expect(one.y + one.height).toBeLessThanOrEqual(300);
        }
        for (let i = 0; i < laid.length; i++)
          for (let j = 0; j < i; j++) expect(overlap(laid[i], laid[j])).toBe(false);
      })
    );
  });

  it('gives areas as bytes', () => {
    const [large, small] = layOutHolders([box('large', 3e6), box('small', 1e6)], 1000, 400);
    expect([large.name, small.name]).toEqual(['large', 'small']);
    expect((large.width * large.height) / (small.width * small.height)).toBeCloseTo(3, 0);
  });

  it('shows what a holder is made of inside it, and nothing of a small one', () => {
    const inside = [
      { className: 'quillhaven.tides.TideWindow', shallowBytes: 600, count: 10, sample: 5, own: true },
      { className: 'double[]', shallowBytes: 300, count: 10, sample: 6, own: false }
    ];
    const laid = layOutHolders(
      [
        box('cache', 1e6, [
          { ...inside[0], shallowBytes: 6e5 },
          { ...inside[1], shallowBytes: 3e5 }
        ])
      ],
      800,
      300
    );
    expect(laid.filter((one) => one.inner).map(({ name }) => name)).toEqual(['TideWindow', 'double[]']);
    const outer = laid.find((one) => !one.inner)!;
    for (const one of laid.filter((part) => part.inner)) {
      expect(one.x).toBeGreaterThanOrEqual(outer.x);
      expect(one.x + one.width).toBeLessThanOrEqual(outer.x + outer.width);
    }
    expect(layOutHolders([box('cache', 1e6, inside)], 60, 60).filter((one) => one.inner)).toEqual([]);
  });

  it('takes names as they are, and leaves out what nobody could see', () => {
    const laid = layOutHolders([box('__proto__', 1e9), box('<b>tiny</b>', 1)], 500, 200);
    expect(laid.map(({ name }) => name)).toEqual(['__proto__']);
  });
});

describe('what is looked at in a dump', () => {
  const states: fc.Arbitrary<HeapState> = fc.record({
    show: fc.constantFrom(...SHOWS),
    before: fc.constantFrom('', 'none', 'a'.repeat(64)),
    weak: fc.boolean(),
    object: fc.integer({ min: -1, max: 1e9 }),
    name: fc.string(),
    value: fc.string(),
    least: fc.nat(),
    root: fc.string(),
    added: fc.boolean()
  });

  it('comes back from the address', () => {
    fc.assert(
      fc.property(states, (state) => {
        const text = HEAP_PARAMS.write(new URLSearchParams('last=1h'), state).toString();
        expect(HEAP_PARAMS.read(new URLSearchParams(text))).toEqual(state);
      })
    );
  });

  it('is the map of all where the address says nonsense', () => {
    expect(HEAP_PARAMS.read(new URLSearchParams('show=x&object=-3&least=-1&weak=2'))).toEqual(
      HEAP_PARAMS.read(new URLSearchParams())
    );
  });
});
