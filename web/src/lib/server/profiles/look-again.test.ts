import { expect, it } from 'vitest';
import { LookAgain, SOONEST_MS } from './look-again';

it('looks ever more seldom at what does not change, soon at what did, and forgets what is gone', () => {
  const again = new LookAgain();
  expect(again.isDue('a', 0)).toBe(true);
  again.looked('a', 0, true);
  expect(again.isDue('a', SOONEST_MS - 1)).toBe(false);
  expect(again.isDue('a', SOONEST_MS)).toBe(true);
  again.looked('a', 0, false);
  expect(again.isDue('a', 2 * SOONEST_MS - 1)).toBe(false);
  for (let i = 0; i < 20; i++) again.looked('a', 0, false);
  expect(again.isDue('a', 3600_000)).toBe(true);
  again.looked('a', 0, true);
  expect(again.isDue('a', SOONEST_MS)).toBe(true);
  again.keep(new Set(['b']));
  expect(again.isDue('a', 0)).toBe(true);
});
