import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Sides } from '../sides';
import { differenceLedger, type PartTotal, type SideTotals } from './difference-ledger';

const NAMES = [
  'select * from berth where id = ?',
  'select * from berth where id in (?)',
  'select * from ship where id = ?',
  'price the stay',
  ''
];
const part = fc
  .record({
    name: fc.constantFrom(...NAMES),
    parent: fc.constantFrom('', 'POST /berths'),
    count: fc.integer({ min: 1, max: 1e6 }),
    bookedNs: fc.integer({ min: 0, max: 1e12 })
  })
  .map((of): PartTotal => {
    const call = of.name.startsWith('select');
    return {
      ...of,
      squares: of.bookedNs ** 2,
      kind: call ? 'database' : 'ownCode',
      verb: call ? 'select' : ''
    };
  });
const side = fc
  .record({
    requests: fc.integer({ min: 1, max: 100_000 }),
    parts: fc.uniqueArray(part, { selector: ({ name }) => name, maxLength: 10 })
  })
  .map(({ requests, parts }): SideTotals => ({
    requests,
    parts,
    totalNs: parts.reduce((sum, { bookedNs }) => sum + bookedNs, 0)
  }));
/** A side of one part. */
const sideOf = (
  requests: number,
  { count, bookedNs }: Pick<PartTotal, 'count' | 'bookedNs'>
): SideTotals => ({
  requests,
  parts: [{ name: '', parent: '', count, bookedNs, squares: bookedNs ** 2, kind: 'ownCode', verb: '' }],
  totalNs: bookedNs
});
const close = (value: number, expected: number, about: number): void =>
  expect(Math.abs(value - expected)).toBeLessThanOrEqual(1e-9 * Math.max(1, Math.abs(about)));

describe('the difference ledger of any two sides', () => {
  it('adds up: the lines to the difference of the averages, and the two reasons to each line', () => {
    fc.assert(
      fc.property(side, side, (before, after) => {
        const ledger = differenceLedger({ before, after });
        const about = Math.max(ledger.averageNs.before, ledger.averageNs.after);
        close(ledger.differenceNs, ledger.averageNs.after - ledger.averageNs.before, about);
        close(
          ledger.lines.reduce((sum, line) => sum + line.differenceNs, 0),
          ledger.differenceNs,
          about
        );
        for (const { differenceNs, byHowOftenNs, byHowLongEachNs, perRequest, parts } of ledger.lines) {
          // The two may be greater than what they add up to by far, and are rounded as such.
          close(byHowOftenNs + byHowLongEachNs, differenceNs, Math.max(about, Math.abs(byHowOftenNs)));
          close(perRequest.after.ns - perRequest.before.ns, differenceNs, about);
          if (!parts.before || !parts.after) expect(byHowLongEachNs).toBe(0);
        }
      }),
      {
        examples: [
          [sideOf(41, { count: 1, bookedNs: 7_418_419_960 }), sideOf(1, { count: 607_084, bookedNs: 0 })]
        ]
      }
    );
  });

  it('negates everything where the sides are swapped', () => {
    fc.assert(
      fc.property(side, side, (before, after) => {
        const ledger = differenceLedger({ before, after });
        const swapped = differenceLedger({ before: after, after: before });
        const about = Math.max(ledger.averageNs.before, ledger.averageNs.after);
        close(swapped.differenceNs, -ledger.differenceNs, about);
        const byParts = new Map(swapped.lines.map((line) => [namesOf(line.parts), line]));
        for (const line of ledger.lines) {
          const { before: earlier, after: later } = line.parts;
          const other = byParts.get(namesOf({ before: later, after: earlier }))!;
          close(other.differenceNs, -line.differenceNs, about);
          close(other.byHowOftenNs, -line.byHowOftenNs, about);
          close(other.byHowLongEachNs, -line.byHowLongEachNs, about);
        }
      })
    );
  });
});

const namesOf = ({ before, after }: Sides<PartTotal | null>): string =>
  [before, after].map((one) => one && `${one.parent} ${one.kind} ${one.name}`).join(' → ');

describe('by how often and by how long each', () => {
  const query = (name: string, count: number, bookedNs: number): PartTotal => ({
    kind: 'database',
    name,
    verb: 'select',
    parent: 'GET /board',
    count,
    bookedNs,
    // As if every request spent the same.
    squares: bookedNs ** 2 / 10
  });
  const of = (...parts: PartTotal[]): SideTotals => ({
    requests: 10,
    totalNs: parts.reduce((sum, { bookedNs }) => sum + bookedNs, 0),
    parts
  });

  // Worked by hand: 4 → 6 calls a request of 3 → 5 ms each are 12 → 30 ms: 2 · 4 = 8 by how often, 2 · 5 = 10 by how long each.
  it('split a line as worked by hand', () => {
    const [line] = differenceLedger({
      before: of(query(NAMES[0], 40, 120e6)),
      after: of(query(NAMES[0], 60, 300e6))
    }).lines;
    expect(line).toMatchObject({ differenceNs: 18e6, byHowOftenNs: 8e6, byHowLongEachNs: 10e6 });
  });

  it('a query for each row that became one query of the same table is one line', () => {
    const { lines } = differenceLedger({
      before: of(query(NAMES[0], 2140, 500e6), query(NAMES[2], 10, 10e6)),
      after: of(query(NAMES[1], 10, 20e6), query(NAMES[2], 10, 10e6))
    });
    expect(lines.map(({ replaced }) => replaced)).toEqual([true, false]);
    expect(lines[0].perRequest).toEqual({ before: { calls: 214, ns: 50e6 }, after: { calls: 1, ns: 2e6 } });
  });

  it('a query of another table is another line', () => {
    const { lines } = differenceLedger({
      before: of(query(NAMES[0], 10, 5e6)),
      after: of(query(NAMES[2], 10, 5e6))
    });
    expect(lines.map(({ replaced }) => replaced)).toEqual([false, false]);
  });

  it('is clear where chance cannot make it, and with samples that depend on each other less so', () => {
    const noisy = (bookedNs: number): PartTotal => ({
      ...query(NAMES[0], 10, bookedNs),
      squares: 10 * (bookedNs / 10) ** 2 + 10 * 1e12
    });
    const clear = (after: number, inflation = 1): boolean =>
      differenceLedger(
        { before: of(noisy(100e6)), after: of(noisy(after)) },
        { before: inflation, after: inflation }
      ).lines[0].clear;
    expect([clear(100e6), clear(104e6), clear(115e6), clear(115e6, 6)]).toEqual([false, false, true, false]);
    expect(
      differenceLedger({ before: of(query(NAMES[0], 10, 5e6)), after: of(query(NAMES[0], 10, 6e6)) }).lines[0]
    ).toMatchObject({ p: 0, clear: true });
  });

  it('has nothing to say of a side without requests', () => {
    const nothing: SideTotals = { requests: 0, totalNs: 0, parts: [] };
    expect(differenceLedger({ before: nothing, after: of(query(NAMES[0], 1, 1)) }).differenceNs).toBeNaN();
  });
});
