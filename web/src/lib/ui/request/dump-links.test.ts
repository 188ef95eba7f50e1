import { describe, expect, it } from 'vitest';
import type { CoveringDump } from '$lib/server/queries/request-page';
import { requestModel, stored, T0 } from '$lib/testing/stored-requests';
import { dumpLinks } from './dump-links';
import { findingsOf } from './request-model';

const model = requestModel([
  stored(1, 0, 0, 400, undefined, 'POST /claim', 2),
  stored(2, 1, 20, 380, undefined, 'lock berth')
]);
const [waits] = findingsOf(model);
const dump = (change: Partial<CoveringDump> = {}): CoveringDump => ({
  id: 'd'.repeat(64),
  service: 'berths',
  host: 'quay-2',
  pid: 42,
  startedAtUs: T0 + 200_000,
  durationNs: 0,
  ...change
});

describe('from a wait for a lock', () => {
  it('a path leads to the dump that was taken meanwhile', () => {
    expect(waits.rule).toBe('waits-for-lock');
    expect(dumpLinks(model, waits, [dump()])).toMatchObject([
      { path: `/threads/${'d'.repeat(64)}`, scope: {} }
    ]);
  });

  it('a path leads to the dumps of that process and time, where none was', () => {
    for (const other of [
      dump({ service: 'tides' }),
      dump({ host: 'quay-9' }),
      dump({ startedAtUs: T0 + 500_000 })
    ])
      expect(dumpLinks(model, waits, [other])).toMatchObject([
        {
          path: '/threads',
          scope: {
            service: 'berths',
            host: 'quay-2',
            from: T0 / 1000 + 20 - 300_000,
            to: T0 / 1000 + 380 + 300_000
          }
        }
      ]);
  });

  it('none leads from any other finding', () => {
    expect(dumpLinks(model, { ...waits, rule: 'query-per-row' }, [dump()])).toEqual([]);
  });
});
