import { plainText } from '../text/words';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { eachSide, type Sides } from '../sides';
import { anyProfile } from '../testing/any-profile';
import { difference, functionChanges, selfChange, type Difference, type ProfileSide } from './difference';
import { differenceReading } from './difference-reading';
import { readFolded } from './folded';
import { functionWeights } from './functions';
import type { Profile } from './model';
import { slice } from './slice';

const side = (profile: Profile, scale = 1): ProfileSide => ({
  frames: profile.frames,
  tree: profile,
  weights: slice(profile),
  scale
});
const sums = (d: Difference): Sides<number> => eachSide(d, ({ sum }) => sum);
const folded = (text: string): Profile => readFolded(text).profile;

describe('the difference of two profiles', () => {
  const before = folded(
    'main;parse (stamp.ts:30);fail (stamp.ts:1) 40\nmain;parse (stamp.ts:30) 10\nmain;sum (harmonic.ts:12) 20\n'
  );
  const after = folded(
    'main;parse (stamp.ts:44) 12\nmain;sum (harmonic.ts:12) 20\nmain;check (stamp.ts:2) 3\n'
  );
  const d = difference({ before: side(before), after: side(after) });
  const changes = functionChanges(d);
  const of = (name: string) => changes.find(({ frame }) => d.frames[frame].name === name)!;

  it('knows functions again where their lines moved, and says what is new and what is gone', () => {
    expect(of('parse')).toMatchObject({
      kind: 'both',
      before: { self: 10, total: 50 },
      after: { self: 12, total: 12 }
    });
    expect(['parse', 'fail', 'check', 'sum'].map((name) => selfChange(of(name)))).toEqual([2, -40, 3, 0]);
    expect(d.frames[of('parse').frame].line).toBe(44);
    expect(of('fail')).toMatchObject({ kind: 'vanished' });
    expect(of('check')).toMatchObject({ kind: 'new' });
    expect(changes[0]).toBe(of('fail'));
  });

  it('tells in a sentence what changed most', () => {
    const wording = {
      weight: (weight: number) => `${weight} ms`,
      name: (frame: number) => d.frames[frame].name
    };
    expect(differenceReading(sums(d), changes, 'requests', wording).map(plainText)).toEqual([
      'In total it takes 35 ms per request instead of 70 ms: ▼ −50\u202f%.',
      'fail changed most: it is gone; it had 40 ms self.',
      'check is next: it is new, with 3 ms self.'
    ]);
    const same = difference({ before: side(before), after: side(before) });
    expect(differenceReading(sums(same), functionChanges(same), 'share', wording)).toEqual([
      ['No function’s self weight changed by more than 2 % of the whole.']
    ]);
  });

  it('tells functions of one name in one file apart by their places', () => {
    const two = folded('(anonymous) (a.ts:5) 7\n(anonymous) (a.ts:9) 2\n');
    const one = folded('(anonymous) (a.ts:9) 2\n');
    const found = functionChanges(difference({ before: side(two), after: side(one) }));
    expect(found.map((one) => [one.kind, selfChange(one)])).toEqual([
      ['vanished', -7],
      ['both', 0]
    ]);
  });

  it('is nothing against itself, and else adds up on both sides', () => {
    fc.assert(
      fc.property(anyProfile, anyProfile, (a, b) => {
        const self = difference({ before: side(a), after: side(a) });
        for (const change of functionChanges(self)) {
          expect(selfChange(change)).toBe(0);
          expect(change.kind).toBe('both');
        }
        const both = difference({ before: side(a, 2), after: side(b) });
        const sum = (profile: Profile): number =>
          functionWeights(profile.frames, profile, slice(profile)).reduce((all, one) => all + one.self, 0);
        const found = functionChanges(both);
        expect(Math.abs(found.reduce((all, one) => all + one.before.self, 0) - 2 * sum(a))).toBeLessThan(1);
        expect(Math.abs(found.reduce((all, one) => all + one.after.self, 0) - sum(b))).toBeLessThan(1);
      })
    );
  });
});
