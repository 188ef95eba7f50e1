import { expect, it } from 'vitest';
import { goneSince, seenAgainUs, type ReleaseTally } from './gone';

const tally = (release: string, requests: number, found: number): ReleaseTally => ({
  release,
  firstUs: Number(release) * 1e6,
  requests,
  found
});

it('credits the first release without the finding', () => {
  expect(goneSince([tally('3', 25, 0), tally('1', 100, 90), tally('2', 40, 36), tally('4', 5, 0)])).toEqual({
    release: '3',
    after: 30,
    before: 140,
    found: 126
  });
});

it.each([
  ['it is still there', [tally('1', 100, 90), tally('2', 100, 1)]],
  ['too few requests came since', [tally('1', 100, 90), tally('2', 19, 0)]],
  [
    'it was rare before: 1 in 20 is not seen in 25 with more than one chance in four',
    [tally('1', 100, 5), tally('2', 25, 0)]
  ],
  ['it was never there', [tally('1', 100, 0), tally('2', 100, 0)]],
  ['there is one release', [tally('1', 100, 50)]]
] as const)('is silent where %s', (_, tallies) => expect(goneSince(tallies)).toBeNull());

it('asks users where users had it: a load run of a new release alone does not tell', () => {
  const run = (requests: number, found: number) => ({ ofRuns: { requests, found } });
  const before = { ...tally('1', 200, 190), ...run(100, 100) };
  expect(goneSince([before, { ...tally('2', 100, 0), ...run(100, 0) }])).toBeNull();
  expect(goneSince([before, { ...tally('2', 130, 0), ...run(100, 0) }])).toMatchObject({
    release: '2',
    after: 30,
    before: 100
  });
  // Nobody but load runs ever had it: then they tell.
  expect(
    goneSince([
      { ...tally('1', 100, 100), ...run(100, 100) },
      { ...tally('2', 100, 0), ...run(100, 0) }
    ])
  ).toMatchObject({ release: '2' });
});

it('tells when an earlier release showed it again', () => {
  const seen = (release: string, lastFoundUs: number) => ({ ...tally(release, 100, 90), lastFoundUs });
  expect(seenAgainUs([seen('1', 1.9e6), tally('2', 40, 0)])).toBeNull();
  expect(seenAgainUs([seen('1', 2e6), tally('2', 40, 0)])).toBe(2e6);
  expect(seenAgainUs([seen('1', 4e6), tally('2', 40, 0), seen('3', 5e6)])).toBeNull();
  expect(seenAgainUs([])).toBeNull();
  // Then only what came after that tells.
  const tallies = [seen('1', 4e6), tally('2', 400, 0)];
  expect(goneSince(tallies, [tally('1', 0, 0), tally('2', 5, 0)])).toBeNull();
  expect(goneSince(tallies, [tally('2', 25, 0)])).toEqual({
    release: '2',
    after: 25,
    before: 100,
    found: 90
  });
});
