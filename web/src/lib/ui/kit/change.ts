import type { Change } from '@tromix/core/stats/rank-test';

export interface ChangeLook {
  text: string;
  tone: 'worse' | 'better' | 'same';
  /** The statement with the test behind it. */
  words: string;
}

/** A chance in words: small ones are only said to be small. */
const chance = (p: number): string => (p < 0.0001 ? 'less than 0.0001' : p.toFixed(4));

/**
 * How a change is written: its sign and size, and in words what was tested.
 * @param of what the median is a multiple of.
 */
export function changeLook(change: Change, of = 'what it was'): ChangeLook {
  switch (change.verdict) {
    case 'too few':
      return { text: '–', tone: 'same', words: 'Fewer than 20 requests on one side: nothing can be said.' };
    case 'no clear change':
      return {
        text: '=',
        tone: 'same',
        words: `No clear change: the ratio of the medians is ${change.ratio.toFixed(2)}, and the probability of such a difference by chance is ${chance(change.p)} (rank test).`
      };
    default: {
      const slower = change.verdict === 'slower';
      return {
        text: `${slower ? '▲' : '▼'} ${change.ratio.toFixed(change.ratio < 1.05 ? 2 : 1)}×`,
        tone: slower ? 'worse' : 'better',
        words: `${slower ? 'Slower' : 'Faster'}: the median is ${change.ratio.toFixed(2)} times ${of}. The probability of such a difference by chance is ${chance(change.p)} (rank test).`
      };
    }
  }
}

export const TONES = { worse: 'text-alarm', better: 'text-ok', same: 'text-ink-3' } as const;
