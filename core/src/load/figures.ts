import { momentsOf } from '../stats/moments';
import { quantileSorted } from '../stats/percentile';
import { responseTimes, type Samples } from './samples';

/** What is said of some samples. Times in microseconds; NaN where there are none. */
export interface LoadFigures {
  samples: number;
  failed: number;
  bytes: number;
  meanUs: number;
  /** Standard deviation of the sample (n − 1); NaN for fewer than two. */
  deviationUs: number;
  minUs: number;
  medianUs: number;
  p95Us: number;
  p99Us: number;
  maxUs: number;
}

/** Figures of response times in any order. */
export function figuresOfTimes(
  timesUs: ArrayLike<number>
): Omit<LoadFigures, 'samples' | 'failed' | 'bytes'> {
  const sorted = Float64Array.from(timesUs).sort();
  const { mean, deviation } = momentsOf(sorted);
  const at = (p: number): number => quantileSorted(sorted, p);
  return {
    meanUs: mean,
    deviationUs: deviation,
    minUs: at(0),
    medianUs: at(0.5),
    p95Us: at(0.95),
    p99Us: at(0.99),
    maxUs: at(1)
  };
}

/** Figures of a run, or of one of its steps. Failed samples count in all of them. */
export function figuresOf(samples: Samples, open: boolean, step?: number): LoadFigures {
  const steps = samples.column('step');
  const faults = samples.column('fault');
  const bytes = samples.column('bytes');
  const all = responseTimes(samples, open);
  const times: number[] = [];
  let failed = 0;
  let sum = 0;
  for (let i = 0; i < samples.length; i++) {
    if (step !== undefined && steps[i] !== step) continue;
    times.push(all[i]);
    if (faults[i] !== 0) failed++;
    sum += bytes[i];
  }
  return { samples: times.length, failed, bytes: sum, ...figuresOfTimes(times) };
}

/** How late the driver itself was: what it adds to the times it measures. Microseconds. */
export interface Lateness {
  medianUs: number;
  p99Us: number;
  maxUs: number;
}

export function latenessOf(samples: Samples): Lateness {
  const { medianUs, p99Us, maxUs } = figuresOfTimes(samples.column('lateUs'));
  return { medianUs, p99Us, maxUs };
}
