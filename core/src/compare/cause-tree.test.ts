import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { causeTree } from './cause-tree';
import { differenceLedger, type PartTotal } from './difference-ledger';

const part = fc.record({
  kind: fc.constantFrom('database', 'ownCode', 'lock'),
  name: fc.string({ maxLength: 3 }),
  verb: fc.constant(''),
  parent: fc.constant(''),
  count: fc.integer({ min: 1, max: 500 }),
  bookedNs: fc.integer({ min: 0, max: 1e12 }),
  squares: fc.constant(0)
});
const side = fc
  .record({
    requests: fc.integer({ min: 1, max: 1000 }),
    parts: fc.uniqueArray(part, { selector: ({ kind, name }) => `${kind} ${name}`, maxLength: 12 })
  })
  .map(({ requests, parts }) => ({
    requests,
    parts: parts as PartTotal[],
    totalNs: parts.reduce((sum, { bookedNs }) => sum + bookedNs, 0)
  }));
const kindOf = ({
  parts: { before, after }
}: {
  parts: { before: PartTotal | null; after: PartTotal | null };
}): string => (after ?? before)!.kind;

describe('the tree of causes of any two sides', () => {
  it('adds up to the difference, and each branch to its own', () => {
    fc.assert(
      fc.property(side, side, (before, after) => {
        const ledger = differenceLedger({ before, after });
        const causes = causeTree(ledger, kindOf);
        const close = (a: number, b: number): void => expect(Math.abs(a - b)).toBeLessThan(1e-2);
        close(
          causes.reduce((sum, { differenceNs }) => sum + differenceNs, 0),
          ledger.differenceNs
        );
        for (const { lines, differenceNs } of causes)
          close(
            lines.reduce((sum, line) => sum + line.differenceNs, 0),
            differenceNs
          );
        if (ledger.differenceNs !== 0)
          expect(causes.reduce((sum, { share }) => sum + share, 0)).toBeCloseTo(1, 6);
      })
    );
  });

  it('begins with what adds most, and ends with what takes most back', () => {
    const of = (database: number, lock: number): Parameters<typeof differenceLedger>[0]['before'] => ({
      requests: 1,
      totalNs: database + lock,
      parts: [
        { kind: 'database', name: 'q', verb: '', parent: '', count: 1, bookedNs: database, squares: 0 },
        { kind: 'lock', name: 'l', verb: '', parent: '', count: 1, bookedNs: lock, squares: 0 }
      ]
    });
    const causes = causeTree(differenceLedger({ before: of(10, 50), after: of(90, 20) }), kindOf);
    expect(causes.map(({ kind, differenceNs }) => [kind, differenceNs])).toEqual([
      ['database', 80],
      ['lock', -30]
    ]);
    expect(causes[0].share).toBeCloseTo(1.6);
  });
});
