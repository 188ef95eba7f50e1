import { responseTimes, sentAndEnded, type Samples } from './samples';

/** Requests drawn as one point, since they lie at the same place of the picture. */
export interface LoadPoint {
  /** Seconds after the run's start at which the first of them ended. */
  atSeconds: number;
  responseUs: number;
  failed: boolean;
  /** How many. */
  count: number;
  /** Number of the slowest of them. */
  sample: number;
}

/** Places of the picture. */
const ACROSS = 400;
const UP = 160;

/**
 * Every request as a point. Where several would lie on the same place of the picture, one stands for them and says how many: no extreme is left out, and
 * failures never hide behind what succeeded.
 */
export function pointsOf(samples: Samples, open: boolean, endUs: number): LoadPoint[] {
  const times = responseTimes(samples, open);
  const { ended } = sentAndEnded(samples);
  const faults = samples.column('fault');
  let mostUs = 1;
  for (const us of times) mostUs = Math.max(mostUs, us);
  const places = new Map<number, LoadPoint>();
  for (let i = 0; i < samples.length; i++) {
    const endedUs = ended[i];
    const x = Math.min(ACROSS - 1, Math.floor((endedUs / Math.max(1, endUs)) * ACROSS));
    const y = Math.min(UP - 1, Math.floor((Math.log1p(times[i]) / Math.log1p(mostUs)) * UP));
    const place = (x * UP + y) * 2 + (faults[i] === 0 ? 0 : 1);
    const known = places.get(place);
    if (!known)
      places.set(place, {
        atSeconds: endedUs / 1e6,
        responseUs: times[i],
        failed: faults[i] !== 0,
        count: 1,
        sample: i
      });
    else {
      known.count++;
      if (times[i] > known.responseUs) {
        known.responseUs = times[i];
        known.sample = i;
      }
    }
  }
  return [...places.values()].sort((a, b) => a.atSeconds - b.atSeconds);
}
