import { describe, expect, it } from 'vitest';
import { ownersOf } from './code-owners';
import { timesTested } from './line-coverage';

describe('CODEOWNERS', () => {
  const FILE = `
# who knows what
*              @quay-office
/berths/       @berth-planning plan@quay.example
*.sql          @data   # of any folder
/pilots/**/roster.ts @pilots
docs/*
[Section]
!/berths/rank.ts @nobody
`;
  it.each([
    ['gateway/board.ts', ['@quay-office']],
    ['berths/plan.ts', ['@berth-planning', 'plan@quay.example']],
    ['berths/deep/schema.sql', ['@data']],
    ['pilots/a/b/roster.ts', ['@pilots']],
    ['docs/engine.md', []],
    ['docs/deep/engine.md', ['@quay-office']],
    ['berths/rank.ts', ['@berth-planning', 'plan@quay.example']]
  ])('%s: the last line that matches', (path, owners) => expect(ownersOf(FILE, path)).toEqual(owners));

  it('says nothing where no line is about it, and survives what is no pattern', () => {
    expect(ownersOf('/berths/ @a', 'tides/cache.ts')).toBeNull();
    expect(ownersOf('', 'a.ts')).toBeNull();
    expect(() => ownersOf(`${'['.repeat(5000)} @a\n\\ @b\n`, 'a.ts')).not.toThrow();
  });
});

describe('lines that tests run', () => {
  // A tracefile as c8 writes it (npm package `c8`, reporter `lcovonly`), shortened.
  const LCOV = `TN:
SF:src/berths/plan.ts
FN:9,planBerth
FNDA:4,planBerth
DA:9,4
DA:12,0
LF:2
LH:1
end_of_record
TN:
SF:/srv/other/tides/cache.ts
DA:5,2
end_of_record
`;
  it('are told as often as they ran; others are not told', () => {
    expect(timesTested(LCOV, 'berths/plan.ts', 9)).toBe(4);
    expect(timesTested(LCOV, 'berths/plan.ts', 12)).toBe(0);
    expect(timesTested(LCOV, 'berths/plan.ts', 10)).toBeNull();
    expect(timesTested(LCOV, 'tides/cache.ts', 5)).toBe(2);
    expect(timesTested(LCOV, 'other.ts', 5)).toBeNull();
    expect(timesTested('SF:', 'a.ts', 1)).toBeNull();
  });
});
