import { overlaps, type Interval } from '../stats/interval';

/** How long a request should take once a finding is mended, and how long it took before. Nanoseconds. */
export interface Prediction {
  beforeNs: number;
  within: Interval;
}

export type PredictionState = 'held' | 'faster than predicted' | 'slower than predicted';

/**
 * What a saving makes of a request: no request becomes shorter than nothing.
 * @param saving least and greatest, nanoseconds.
 */
export const predictionOf = (beforeNs: number, saving: { lowNs: number; highNs: number }): Prediction => ({
  beforeNs,
  within: { low: Math.max(0, beforeNs - saving.highNs), high: Math.max(0, beforeNs - saving.lowNs) }
});

/** A prediction held where what was measured overlaps what was predicted. */
export function judge({ within }: Prediction, measured: Interval): PredictionState {
  if (overlaps(within, measured)) return 'held';
  return measured.high < within.low ? 'faster than predicted' : 'slower than predicted';
}
