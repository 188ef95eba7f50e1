import { describe, expect, it, vi } from 'vitest';
import type { Recording, StoredPlan } from '../queries/recordings';
import { isDue } from './plans';

vi.mock('../workers', () => ({}));

const NOW = Date.parse('2026-11-28T10:00:00Z');
const MINUTE = 60_000;
const plan = {
  id: 'p',
  createdAtUs: NOW * 1000,
  plan: { when: { by: 'time', everyMinutes: 5 } }
} as StoredPlan;
const recorded = (minutesAgo: number, state: Recording['state'] = 'saved'): Recording =>
  ({ state, startedAtUs: (NOW - minutesAgo * MINUTE) * 1000 }) as Recording;

describe('a plan that records again and again', () => {
  it('is due at once, and again when its pause is over', async () => {
    expect(await isDue(plan, [], NOW)).toBe(true);
    expect(await isDue(plan, [recorded(4)], NOW)).toBe(false);
    expect(await isDue(plan, [recorded(12), recorded(5)], NOW)).toBe(true);
  });
  it('is not due while it records', async () => {
    expect(await isDue(plan, [recorded(9, 'recording')], NOW)).toBe(false);
    expect(await isDue(plan, [recorded(9, 'saving')], NOW)).toBe(false);
  });
});
