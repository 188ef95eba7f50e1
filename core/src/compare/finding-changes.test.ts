import { describe, expect, it } from 'vitest';
import { findingChanges, type FoundIn } from './finding-changes';
import { judge, predictionOf, predictionOver } from './prediction';

const found = (rule: string, requests: number): FoundIn => ({ rule, subject: 'berth', requests });
const states = (
  before: FoundIn[],
  after: FoundIn[],
  requests = { before: 200, after: 200 }
): Record<string, string> =>
  Object.fromEntries(findingChanges({ before, after }, requests).map(({ rule, state }) => [rule, state]));

describe('findings of two sides', () => {
  it('are gone, new, rarer, more frequent or still there', () => {
    expect(
      states(
        [
          found('query-per-row', 200),
          found('same-call-again', 150),
          found('retry-storm', 5),
          found('cold-start', 90)
        ],
        [
          found('same-call-again', 40),
          found('retry-storm', 60),
          found('cold-start', 95),
          found('lock-queue', 80)
        ]
      )
    ).toEqual({
      'query-per-row': 'gone',
      'same-call-again': 'rarer',
      'retry-storm': 'more frequent',
      'cold-start': 'still there',
      'lock-queue': 'new'
    });
  });
  it('that chance alone may have left out are not told', () => {
    expect(states([found('cold-start', 1)], [], { before: 300, after: 40 })).toEqual({
      'cold-start': 'not told'
    });
    expect(states([], [found('cold-start', 1)])).toEqual({ 'cold-start': 'not told' });
    expect(states([found('cold-start', 3)], [], { before: 300, after: 0 })).toEqual({
      'cold-start': 'not told'
    });
  });
  it('stand in an order: what is gone, what is new, what else changed, then the rest', () => {
    const changes = findingChanges(
      {
        before: [found('a', 100), found('b', 190), found('c', 10)],
        after: [found('b', 190), found('d', 150)]
      },
      { before: 200, after: 200 }
    );
    expect(changes.map(({ rule }) => rule)).toEqual(['a', 'c', 'd', 'b']);
  });
});

describe('a prediction', () => {
  const prediction = predictionOf(100e6, { lowNs: 40e6, highNs: 70e6 });
  it('is what the saving leaves, never less than nothing', () => {
    expect(prediction.within).toEqual({ low: 30e6, high: 60e6 });
    expect(predictionOf(10, { lowNs: 5, highNs: 20 }).within).toEqual({ low: 0, high: 5 });
  });
  it('over many requests is the median of what is left of each', () => {
    const requests = [100, 200, 300].map((durationNs) => ({ durationNs, lowNs: 50, highNs: durationNs }));
    expect(predictionOver(requests)).toEqual({ beforeNs: 200, within: { low: 0, high: 150 } });
    expect(predictionOver([])).toBeNull();
  });
  it.each([
    [{ low: 55e6, high: 70e6 }, 'held'],
    [{ low: 61e6, high: 70e6 }, 'slower than predicted'],
    [{ low: 10e6, high: 29e6 }, 'faster than predicted']
  ])('is judged by the measured interval: %j %s', (measured, state) =>
    expect(judge(prediction, measured)).toBe(state)
  );
});
