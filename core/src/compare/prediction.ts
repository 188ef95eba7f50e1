import { overlaps, type Interval } from '../stats/interval';
import { median } from '../stats/percentile';

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

/** One request: how long it took, and what a remedy would save of it, least and greatest. Nanoseconds. */
export interface Savable {
  durationNs: number;
  lowNs: number;
  highNs: number;
}

/**
 * What a remedy makes of the median of some requests: each is shortened by what it would save, and the median taken again.
 * @returns null for no requests.
 */
export function predictionOver(requests: readonly Savable[]): Prediction | null {
  if (requests.length === 0) return null;
  const medianOf = (of: (request: Savable) => number): number =>
    median(requests.map((request) => Math.max(0, of(request))));
  return {
    beforeNs: medianOf(({ durationNs }) => durationNs),
    within: {
      low: medianOf(({ durationNs, highNs }) => durationNs - highNs),
      high: medianOf(({ durationNs, lowNs }) => durationNs - lowNs)
    }
  };
}

/** A prediction held where what was measured overlaps what was predicted. */
export function judge({ within }: Prediction, measured: Interval): PredictionState {
  if (overlaps(within, measured)) return 'held';
  return measured.high < within.low ? 'faster than predicted' : 'slower than predicted';
}
