import { expect, it } from 'vitest';
import { LogNormalSeries } from '../testing/series';
import { figuresOf, howSure, type HowSure } from './how-sure';
import { sureSentences, verdictSentence } from './words';

/** Twenty requests a side, of which the second are half as long. */
function fewRequests(seed: number): { sure: HowSure; before: Float64Array; after: Float64Array } {
  const series = new LogNormalSeries(seed, 0);
  const before = series.take(20);
  const after = series.take(20, 0.62 * LogNormalSeries.MIDDLE);
  return { sure: howSure({ before, after }, { seed }), before, after };
}

const wordsOf = ({ sure, before, after }: ReturnType<typeof fewRequests>): string[] => {
  const said = {
    sure,
    figures: { before: figuresOf(before), after: figuresOf(after) },
    requests: sure.count
  };
  return [verdictSentence(said), sureSentences(said).join(' ')];
};

it('says why few requests whose interval leaves out “no change” are not called clear', () => {
  const tried = Array.from({ length: 40 }, (_, seed) => fewRequests(seed));
  const looksChanged = ({ sure }: { sure: HowSure }): boolean =>
    sure.changes.median!.differenceWithin.high < 0 && sure.about === null;
  const unclear = tried.filter(looksChanged);
  expect(unclear.length).toBeGreaterThan(0);
  for (const one of unclear)
    for (const text of wordsOf(one))
      expect(text).toMatch(/not called clear yet: 99\D?% confidence is asked for.*less than 1\D?% .*\(here /);
  const others = tried.filter((one) => !looksChanged(one));
  expect(others.length).toBeGreaterThan(0);
  for (const one of others) for (const text of wordsOf(one)) expect(text).not.toContain('not called clear');
});
