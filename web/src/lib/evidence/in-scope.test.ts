import { describe, expect, it } from 'vitest';
import { inScope, seriesOf, type InSeries } from './in-scope';

const S = 1e6;
const item = (change: Partial<InSeries> = {}): InSeries => ({
  id: 'a',
  series: '',
  service: 'tides',
  host: 'quay-3',
  release: '7.3',
  startedAtUs: 100 * S,
  receivedAtUs: 500 * S,
  durationNs: 10e9,
  ...change
});
const anything = { service: '', host: '', release: '' };
const window = { fromUs: 105 * S, toUs: 200 * S };

describe('evidence in a scope', () => {
  it('lies in the window with any part of it', () => {
    expect(inScope(item(), anything, window)).toBe(true);
    expect(inScope(item({ startedAtUs: 94 * S }), anything, window)).toBe(false);
    expect(inScope(item({ startedAtUs: 200 * S }), anything, window)).toBe(false);
    // A dump is of a moment.
    expect(inScope(item({ startedAtUs: 105 * S, durationNs: 0 }), anything, window)).toBe(true);
  });

  it('is of what the scope names; what it does not tell may be anything', () => {
    expect(inScope(item(), { ...anything, service: 'berths' }, window)).toBe(false);
    expect(inScope(item(), { ...anything, release: '7.2' }, window)).toBe(false);
    expect(
      inScope(
        item({ service: '', release: '' }),
        { service: 'berths', host: 'quay-3', release: '7.2' },
        window
      )
    ).toBe(true);
    expect(inScope(item({ startedAtUs: null }), anything, window)).toBe(true);
  });

  it('is one series where dumps are of one process, from the first to the end of the last', () => {
    const dumps = [
      item({ id: 'c', series: 'p', startedAtUs: 130 * S, durationNs: 2e9 }),
      item({ id: 'b', series: 'p', startedAtUs: null, receivedAtUs: 120 * S }),
      item({ id: 'a', series: 'p', startedAtUs: 90 * S }),
      item({ id: 'd' }),
      item({ id: 'e' })
    ];
    const series = seriesOf(dumps);
    expect(series.map(({ dumps: of }) => of.map(({ id }) => id))).toEqual([['a', 'b', 'c'], ['d'], ['e']]);
    expect(series[0]).toMatchObject({ startedAtUs: 90 * S, durationNs: 42e9, last: { id: 'c' } });
    // None of its dumps begins in this window, but it goes on through it.
    expect(inScope(series[0], anything, { fromUs: 100 * S, toUs: 110 * S })).toBe(true);
  });
});
