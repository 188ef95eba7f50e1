import { expect, test } from 'vitest';
import { moveAddress } from './move-case';

test('times of an address move, on both sides of a comparison, and nothing else', () => {
  const other = 'service=berths&from=1000&to=2000';
  const moved = moveAddress(`/compare?from=3000&to=4000&run=4&a=${encodeURIComponent(other)}`, 500);
  expect(moved).toBe(
    `/compare?from=3500&to=4500&run=4&a=${encodeURIComponent('service=berths&from=1500&to=2500')}`
  );
  expect(moveAddress('/requests/a/b', 500)).toBe('/requests/a/b');
  expect(moveAddress('/?to=x', 500)).toBe('/?to=x');
});
