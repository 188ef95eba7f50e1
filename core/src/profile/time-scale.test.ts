import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readFolded } from './folded';
import type { Profile } from './model';
import { closedScale, evenScale } from './time-scale';

/** Samples of one thread as `[from, length, idle]`. */
function profileOf(samples: readonly [number, number, boolean][], threads?: readonly number[]): Profile {
  const { profile: read } = readFolded('work 1\n');
  return {
    ...read,
    frames: [
      { ...read.frames[0], name: 'work', kind: 'app' },
      { ...read.frames[0], name: '(idle)', kind: 'idle' }
    ],
    nodeFrame: Int32Array.of(0, 1),
    nodeParent: Int32Array.of(-1, -1),
    sampleNode: Int32Array.from(samples, ([, , idle]) => Number(idle)),
    sampleTime: Float64Array.from(samples, ([from]) => from),
    sampleWeight: Float64Array.from(samples, ([, length]) => length),
    ...(threads && { sampleThread: Uint16Array.from(threads), threads: ['a', 'b'] })
  };
}
const window = { fromNs: 0, toNs: 1000, thread: -1 };

describe('a scale of time', () => {
  it('closes long idle stretches up, and leaves short ones', () => {
    const scale = closedScale(
      profileOf([
        [0, 100, false],
        [100, 500, true],
        [600, 200, false],
        [800.1, 99.9, false]
      ]),
      window
    );
    expect(scale.closed.map(({ ns }) => ns)).toEqual([500, 100]);
    // 400 of 1000 are left, over all of the width but the two that are closed.
    const density = (1 - 2 * 0.008) / 400;
    expect(scale.partAt(100)).toBeCloseTo(100 * density);
    expect(scale.partAt(600)).toBeCloseTo(100 * density + 0.008);
    expect(scale.partAt(1000)).toBe(1);
    expect(scale.nsOf(scale.partAt(800) - scale.partAt(600))).toBeCloseTo(200);
  });

  it('closes nothing up while another thread runs, unless that thread alone is looked at', () => {
    const samples = profileOf(
      [
        [0, 100, false],
        [100, 900, true],
        [100, 900, false]
      ],
      [0, 0, 1]
    );
    expect(closedScale(samples, window).closed).toEqual([]);
    expect(closedScale(samples, { ...window, thread: 0 }).closed).toHaveLength(1);
  });

  it('is even where nothing ran, and where nothing is closed', () => {
    expect(closedScale(profileOf([[0, 1000, true]]), window).closed).toEqual([]);
    const even = evenScale(window);
    expect([even.partAt(0), even.partAt(250), even.timeAt(0.25)]).toEqual([0, 0.25, 250]);
  });

  it('rises from 0 to 1, and leads back to every moment that is not closed up', () => {
    const pieces = fc.array(fc.tuple(fc.integer({ min: 1, max: 400 }), fc.boolean()), {
      minLength: 1,
      maxLength: 40
    });
    fc.assert(
      fc.property(pieces, (list) => {
        let at = 0;
        const samples = list.map(([length, idle]): [number, number, boolean] => [
          (at += length) - length,
          length,
          idle
        ]);
        const scale = closedScale(profileOf(samples), { fromNs: 0, toNs: at, thread: -1 });
        expect(scale.partAt(0)).toBeCloseTo(0);
        expect(scale.partAt(at)).toBeCloseTo(1);
        let last = -1;
        for (const [from, , idle] of samples) {
          const part = scale.partAt(from);
          expect(part).toBeGreaterThanOrEqual(last);
          last = part;
          if (!idle) expect(Math.abs(scale.timeAt(part) - from)).toBeLessThan(1e-6 * at + 1e-6);
        }
      })
    );
  });
});
