import { describe, expect, it } from 'vitest';
import type { InspectedHeap } from '../inspect/heap';
import type { InspectedProfile } from '../inspect/profile';
import { shareInterval } from '../stats/share-interval';
import { judgeFunction, judgeHeap } from './judge-files';

const profile = (totalShare: number, samples: number, unit: InspectedProfile['unit'] = 'nanoseconds') =>
  ({
    unit,
    samples,
    functions: [{ name: 'rank', file: 'src/berths/rank.ts', totalShare }]
  }) as InspectedProfile;
const heap = (liveBytes: number, windows: number) =>
  ({
    liveBytes,
    classes: [{ name: 'TideWindow', count: 1, shallowBytes: windows, retainedBytes: 0 }]
  }) as InspectedHeap;

describe('a budget of a function', () => {
  it('breaks only where the whole interval of its share lies beyond', () => {
    const { low } = shareInterval(60, 100);
    expect(judgeFunction({ name: 'rank', share: 0.55 }, [profile(0.6, 100)])).toMatchObject({
      state: 'kept',
      measured: 0.6,
      within: { low }
    });
    expect(judgeFunction({ name: 'rank', share: 0.55 }, [profile(0.6, 100)], true).state).toBe('broken');
    expect(judgeFunction({ name: 'rank', share: 0.55 }, [profile(0.6, 100_000)]).state).toBe('broken');
    expect(judgeFunction({ name: 'rank', share: 0.55 }, [profile(0.6, 2, 'count')]).state).toBe('broken');
  });

  it('knows it by the end of its file, keeps where it is nowhere, and cannot tell without a profile', () => {
    const of = { name: 'rank', file: 'rank.ts', share: 0.1 };
    expect(judgeFunction(of, [profile(0.6, 1000)]).state).toBe('broken');
    expect(judgeFunction({ ...of, file: 'other.ts' }, [profile(0.6, 1000)])).toMatchObject({
      state: 'kept',
      measured: 0
    });
    expect(judgeFunction(of, [])).toMatchObject({
      state: 'not told',
      reason: 'There is no profile of side B.'
    });
  });
});

describe('a budget of a heap', () => {
  it('is held against what grew: everything alive, or one class', () => {
    const heaps = { before: heap(1000, 100), after: heap(5000, 150) };
    expect(judgeHeap({ growthBytes: 4000 }, heaps).state).toBe('kept');
    expect(judgeHeap({ growthBytes: 3999 }, heaps)).toMatchObject({ state: 'broken', measured: 4000 });
    expect(judgeHeap({ className: 'TideWindow', growthBytes: 49 }, heaps).state).toBe('broken');
    expect(judgeHeap({ className: 'None', growthBytes: 0 }, heaps).state).toBe('kept');
    expect(judgeHeap({ growthBytes: 1 }, { ...heaps, before: null }).reason).toBe(
      'There is no heap dump of side A.'
    );
  });
});
