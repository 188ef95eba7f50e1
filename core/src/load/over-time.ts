import { figuresOfTimes } from './figures';
import { responseTimes, sentAndEnded, type Samples } from './samples';

/** One stretch of a run. */
export interface LoadBin {
  /** Where it begins, seconds after the run's start. */
  atSeconds: number;
  /** Answers, or failures, per second. */
  throughput: number;
  failed: number;
  /** Requests under way on average: the sum of their times within the stretch, divided by its length. */
  underWay: number;
  /** Users that had one under way; in an open model the visits. */
  users: number;
  /** Of what ended in it; NaN for none. */
  medianUs: number;
  p95Us: number;
}

/** Lengths of a stretch, seconds. */
const LENGTHS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600];
const MAX_BINS = 60;

/** A run in at most 60 stretches of a round length. What is not over yet counts up to its end. */
export function binsOver(
  samples: Samples,
  open: boolean,
  endUs: number
): { seconds: number; bins: LoadBin[] } {
  const seconds = LENGTHS.find((length) => endUs / 1e6 / length <= MAX_BINS) ?? LENGTHS.at(-1)!;
  const lengthUs = seconds * 1e6;
  const count = Math.min(MAX_BINS * 40, Math.max(1, Math.ceil(endUs / lengthUs)));
  const times = responseTimes(samples, open);
  const moments = sentAndEnded(samples);
  const faults = samples.column('fault');
  const users = samples.column('user');
  const ended: number[][] = Array.from({ length: count }, () => []);
  const failed = new Array<number>(count).fill(0);
  const busyUs = new Array<number>(count).fill(0);
  const seen = Array.from({ length: count }, () => new Set<number>());
  for (let i = 0; i < samples.length; i++) {
    const from = moments.sent[i];
    const to = moments.ended[i];
    const last = Math.min(count - 1, Math.floor(to / lengthUs));
    ended[last].push(times[i]);
    if (faults[i] !== 0) failed[last]++;
    for (let bin = Math.floor(from / lengthUs); bin <= last; bin++) {
      if (bin < 0) continue;
      busyUs[bin] += Math.min(to, (bin + 1) * lengthUs) - Math.max(from, bin * lengthUs);
      seen[bin].add(users[i]);
    }
  }
  const bins = ended.map((durationsUs, bin): LoadBin => {
    const ranUs = Math.min(endUs, (bin + 1) * lengthUs) - bin * lengthUs;
    const { medianUs, p95Us } = figuresOfTimes(durationsUs);
    return {
      atSeconds: (bin * lengthUs) / 1e6,
      throughput: ranUs > 0 ? (durationsUs.length / ranUs) * 1e6 : 0,
      failed: failed[bin],
      underWay: ranUs > 0 ? busyUs[bin] / ranUs : 0,
      users: seen[bin].size,
      medianUs,
      p95Us
    };
  });
  return { seconds, bins };
}
