import { describe, expect, it } from 'vitest';
import { load, resource } from '../testing/page-load';
import { visitEvents } from './visit';

const AT_US = 1_700_000_000_000_000;
const first = load({
  atUs: AT_US,
  page: '/board',
  loadedMs: 2000,
  largest: { atMs: 1500, element: '', url: '' },
  resources: [
    resource('document', '/board', 0, 300),
    resource('data', '/tides/1', 1000, 1100),
    // One after the other: the last begins long after the step.
    ...[1, 2, 3].map((i) => resource('data', `/tides/${i}`, 8600 + i * 700, 9200 + i * 700)),
    resource('data', '/berths', 9350, 9400, { status: 500 }),
    resource('data', '/poll', 30_000, 30_100)
  ],
  steps: [
    { atMs: 8990, kind: 'click', label: 'Tides' },
    { atMs: 59_800, kind: 'click', label: 'Dues' }
  ],
  errors: [{ atMs: 9500, type: 'TypeError', message: 'no berth', stack: '' }]
});
const second = load({ atUs: AT_US + 60e6, page: '/dues', loadedMs: 800 });

describe('a visit', () => {
  const events = visitEvents([first, second]);
  it('is in order of time, with what came of each step', () => {
    expect(events.map(({ kind, label, cause }) => [kind, label, cause])).toEqual([
      ['load', '/board', -1],
      ['step', 'clicked Tides', -1],
      ['call', 'GET /tides/:id, 3 times', 1],
      ['call', 'GET /berths', 1],
      ['error', 'TypeError: no berth', 1],
      ['call', 'GET /poll', -1],
      ['step', 'clicked Dues', -1],
      ['load', '/dues', 6]
    ]);
  });
  it('tells what failed, and leaves out what a load itself fetched', () => {
    expect(events.filter(({ failed }) => failed).map(({ label }) => label)).toEqual([
      'GET /berths',
      'TypeError: no berth'
    ]);
    expect(events.flatMap(({ resources }) => resources)).toEqual([2, 3, 4, 5, 6]);
  });
});
