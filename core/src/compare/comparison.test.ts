import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { anySpans } from '../testing/any-trace';
import { span, traceOf, type SpanShape } from '../testing/spans';
import { SpanKind } from '../trace/span';
import { LEDGERS, sideOf, type ComparedSide } from './compared-side';
import { compareSides } from './comparison';

const found = (spans: SpanShape[]): ComparedSide => {
  const account = traceOf(spans.map(span));
  return sideOf(account.requests.map((request) => ({ trace: account, request })));
};
/** Requests one after another, each a query for every row. */
const board = (requests: number, queries: number, fromMs = 0): ComparedSide =>
  sideOf(
    Array.from({ length: requests }, (_, i) => {
      const from = fromMs + i * 1000;
      const account = traceOf(
        [
          {
            id: 'root',
            from,
            to: from + 10 + 4 * queries + (i % 7),
            kind: SpanKind.SERVER,
            name: 'GET /board'
          },
          ...Array.from({ length: queries }, (_unused, n) => ({
            id: `q${n}`,
            parent: 'root',
            from: from + 5 + n * 4,
            to: from + 5 + n * 4 + 3,
            kind: SpanKind.CLIENT,
            attributes: {
              'db.system.name': 'sqlite',
              'db.query.text':
                queries === 1
                  ? 'select * from berth where id in (1, 2, 3)'
                  : `select * from berth where id = ${n}`
            }
          }))
        ].map(span)
      );
      return { trace: account, request: account.requests[0] };
    })
  );

describe('two sides of any traces', () => {
  it('have ledgers that add up by part, account and service', () => {
    fc.assert(
      fc.property(anySpans, anySpans, (before, after) => {
        const sides = { before: found(before), after: found(after) };
        fc.pre(sides.before.durationsNs.length > 0 && sides.after.durationsNs.length > 0);
        const { ledgers } = compareSides(sides, { resamples: 10 });
        for (const by of LEDGERS) {
          const { averageNs, differenceNs, lines } = ledgers[by]!;
          const sum = lines.reduce((all, line) => all + line.differenceNs, 0);
          expect(Math.abs(sum - differenceNs)).toBeLessThan(1e-3);
          expect(Math.abs(averageNs.after - averageNs.before - differenceNs)).toBeLessThan(1e-3);
        }
      }),
      { numRuns: 200 }
    );
  });
});

describe('a query for each row that was mended', () => {
  const comparison = compareSides({ before: board(60, 20), after: board(60, 1, 100_000) });

  it('is faster, by the calls that are gone', () => {
    expect(comparison.sure).toMatchObject({ verdict: 'faster', about: 'median' });
    const [line] = comparison.ledgers.part.lines;
    expect(line).toMatchObject({
      replaced: true,
      perRequest: { before: { calls: 20 }, after: { calls: 1 } }
    });
    expect(line.byHowOftenNs).toBeCloseTo(-57e6, -3);
    expect(comparison.ledgers.account.lines.map(({ parts }) => parts.before?.name)).toContain('database');
  });

  it('has its finding gone', () => {
    expect(comparison.findings[0]).toMatchObject({
      rule: 'query-per-row',
      state: 'gone',
      found: { before: 60, after: 0 }
    });
  });

  it('has nothing that must be known first', () => expect(comparison.notes).toEqual([]));
});

describe('sides that are no two sides', () => {
  const sides = (before: ComparedSide, after: ComparedSide): string[] =>
    compareSides({ before, after }, { resamples: 10 }).notes.map((note) => note.code);
  it('are named: empty, of few requests, overlapping, the same', () => {
    const nothing = sideOf([]);
    expect(sides(nothing, board(40, 2))).toEqual(['empty']);
    expect(sides(nothing, nothing)).toEqual(['empty', 'empty']);
    expect(sides(board(1, 2), board(40, 2, 5000))).toEqual(['few']);
    expect(sides(board(40, 2), board(40, 3, 5000))).toEqual(['overlap']);
    expect(sides(board(40, 2), board(40, 2))).toEqual(['same']);
  });
  it('of which one is empty have no figures that look like some', () => {
    const { sure, ledgers, failedP } = compareSides({ before: sideOf([]), after: board(40, 2) });
    expect(sure.verdict).toBe('too few');
    expect([ledgers.part.differenceNs, failedP]).toEqual([NaN, NaN]);
  });
});
