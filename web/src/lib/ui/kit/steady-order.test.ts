import { expect, it } from 'vitest';
import { SteadyOrder } from './steady-order';

it('keeps what was shown first in its place, puts what is new below, and begins anew elsewhere', () => {
  const order = new SteadyOrder();
  const of = (place: string, items: string): string => order.of(place, [...items], (item) => item).join('');
  expect(of('a', 'bca')).toBe('bca');
  expect(of('a', 'abc')).toBe('bca');
  expect(of('a', 'dab')).toBe('bad');
  expect(of('a', 'abcd')).toBe('bcad');
  expect(of('b', 'abcd')).toBe('abcd');
});
