import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { RailFlag } from '$lib/server/queries/rail';
import { flagGroups } from './flag-groups';

const x = (ms: number): number => ms;
const flag = (at: number, service: string, release = '7.3'): RailFlag => ({ at, service, release });

describe('flags of releases', () => {
  it('stand alone where there is room, in the order of time', () => {
    const groups = flagGroups([flag(500, 'tides'), flag(0, 'berths')], x);
    expect(groups.map(({ label, at }) => [label, at])).toEqual([
      ['berths 7.3', [0]],
      ['tides 7.3', [500]]
    ]);
  });
  it('are one where they would lie over each other, and tell all', () => {
    expect(flagGroups([flag(0, 'berths'), flag(3, 'tides')], x)).toMatchObject([
      { label: 'berths 7.3, tides 7.3', at: [0, 3] }
    ]);
    const many = ['gateway', 'berths', 'tides', 'manifests'].map((name, i) => flag(i, name));
    expect(flagGroups(many, x)).toMatchObject([
      { label: '4 releases', about: 'gateway 7.3, berths 7.3, tides 7.3, manifests 7.3' }
    ]);
  });
  it('are one where the last would stand before its line, over the one before', () => {
    const two = [flag(0, 'berths'), flag(120, 'tides')];
    expect(flagGroups(two, x, 100)).toMatchObject([{ label: 'berths 7.3, tides 7.3' }]);
    expect(flagGroups([flag(0, 'berths'), flag(300, 'tides')], x, 100)).toHaveLength(2);
    expect(flagGroups(two, x, 500)).toHaveLength(2);
  });
  it('cut a name that is very long', () => {
    const [{ label, about }] = flagGroups([flag(0, 'a'.repeat(80))], x);
    expect([label.length, about.length]).toEqual([28, 84]);
  });
  it('hold each release once, and none begins under the one before', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(1000), { maxLength: 30 }), (times) => {
        const groups = flagGroups(
          times.map((at, i) => flag(at, `s${i}`)),
          x
        );
        expect(groups.flatMap(({ at }) => at)).toEqual(times.toSorted((a, b) => a - b));
        for (let i = 1; i < groups.length; i++)
          expect(groups[i].at[0] - groups[i - 1].at[0]).toBeGreaterThan(12);
      })
    );
  });
});
