import * as v from 'valibot';
import { describe, expect, it } from 'vitest';
import { Watch } from '@tromix/core/watch/watch';
import { Watched } from '@tromix/core/watch/watched';
import { conditionFrom, draftFrom, draftOf, figuresLike, proposedLimits, watchFrom } from './draft';

const requests = v.parse(Watched, { of: 'requests', figure: 'p95', place: { service: 'berths' } });

describe('the form of a watch', () => {
  it('takes limits in the units they are typed in', () => {
    const draft = { ...draftOf(requests), on: 500, off: 400 };
    expect(conditionFrom(draft)?.limit).toEqual({ by: 'number', side: 'above', on: 500e6, off: 400e6 });
    const share = { ...draftOf(v.parse(Watched, { of: 'requests', figure: 'failed' })), on: 5, off: 2 };
    expect(conditionFrom(share)?.limit).toMatchObject({ on: 0.05, off: 0.02 });
  });

  it('is no watch while a limit is missing', () => {
    expect(watchFrom(draftOf(requests))).toBeNull();
    expect(watchFrom({ ...draftOf(requests), by: 'day' })).not.toBeNull();
  });

  it('shows a watch as it was saved', () => {
    const watch = v.parse(Watch, {
      name: 'Berthing',
      condition: {
        watched: requests,
        limit: { by: 'before', against: 'release', on: 0.25, off: 0.1 },
        over: 10,
        for: 4,
        silentAfter: 20
      },
      severity: 'urgent',
      owner: 'desk',
      actions: {
        case: true,
        record: [
          { kind: 'cpu', seconds: 12, address: '127.0.0.1:9229' },
          { kind: 'threads', seconds: 1, address: '' }
        ]
      }
    });
    expect(watchFrom(draftFrom(watch))).toEqual(watch);
    const byNumber = {
      ...watch,
      condition: {
        ...watch.condition,
        limit: { by: 'number' as const, side: 'above' as const, on: 123_456_789, off: 0.1 }
      }
    };
    expect(watchFrom(draftFrom(byNumber))).toEqual(byNumber);
  });

  it('proposes limits that what went on so far hardly crosses', () => {
    const values = Array.from({ length: 1000 }, (_, i) => (100 + (i % 100)) * 1e6);
    expect(proposedLimits(requests, 'above', values)).toEqual({ on: 250, off: 210 });
    expect(proposedLimits(requests, 'below', values)).toEqual({ on: 81, off: 95 });
    expect(proposedLimits(requests, 'above', [null, null, 1e6])).toBeNull();
    const failures = v.parse(Watched, { of: 'failures', figure: 'new' });
    expect(proposedLimits(failures, 'above', [])).toEqual({ on: 0, off: 0 });
  });

  it('offers the figures of the same kind', () => {
    expect(figuresLike(requests)).toHaveLength(8);
    expect(figuresLike(v.parse(Watched, { of: 'crashes' }))).toHaveLength(1);
    const one = v.parse(Watched, { of: 'failures', figure: 'rate', failure: 'key' });
    expect(figuresLike(one)).toEqual([one]);
  });
});
