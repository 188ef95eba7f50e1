import { sentAndEnded, type Samples } from './samples';

/** The two sides of Little's law for a stretch of a run. */
export interface LittlesLaw {
  /** Requests under way on average, by summing up their times. */
  underWay: number;
  /** Requests that ended, per second. */
  throughput: number;
  /** Mean time of those, seconds. */
  timeSeconds: number;
}

/**
 * L = λ W over a whole run, which begins and ends with nothing under way: there it holds exactly.
 * Source: J. D. C. Little, "A Proof for the Queuing Formula: L = λW" (1961).
 */
export function littlesLaw(samples: Samples): LittlesLaw {
  const { sent, ended } = sentAndEnded(samples);
  let firstUs = Infinity;
  let lastUs = 0;
  let sumUs = 0;
  for (let i = 0; i < samples.length; i++) {
    firstUs = Math.min(firstUs, sent[i]);
    lastUs = Math.max(lastUs, ended[i]);
    sumUs += ended[i] - sent[i];
  }
  const lengthUs = lastUs - firstUs;
  if (samples.length === 0 || lengthUs <= 0) return { underWay: 0, throughput: 0, timeSeconds: 0 };
  return {
    underWay: sumUs / lengthUs,
    throughput: (samples.length / lengthUs) * 1e6,
    timeSeconds: sumUs / samples.length / 1e6
  };
}
