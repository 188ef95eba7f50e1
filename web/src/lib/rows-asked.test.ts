import { expect, it } from 'vitest';
import { moreRows, rowsAsked } from './rows-asked';

it('rows of a long list are read by the thousand, up to 20,000', () => {
  const rows = (query: string): number => rowsAsked(new URLSearchParams(query));
  expect([rows(''), rows('rows=3000'), rows('rows=1e9'), rows('rows=-1'), rows('rows=x')]).toEqual([
    1000, 3000, 1000, 1000, 1000
  ]);
  const more = (query: string): string | null => moreRows(new URL(`http://a/requests${query}`));
  expect(more('?host=quay-1')).toBe('/requests?host=quay-1&rows=2000');
  expect(more('?rows=2000')).toBe('/requests?rows=3000');
  expect(more('?rows=20000')).toBeNull();
});
