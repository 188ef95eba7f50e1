import type { FunctionPoint } from '@tromix/core/profile/sums/scope-sums';

/** What a function took in a bin of time under one release. */
export interface FunctionBin {
  /** Epoch milliseconds of its beginning. */
  at: number;
  release: number;
  requests: number;
  /** Nanoseconds of CPU, with what it calls: of a request, or of a second that was recorded. */
  figure: number;
}

const MOST_BINS = 60;
/** Bins of time that read well, milliseconds. */
const STEPS = [5, 10, 30, 60, 300, 600, 1800, 3600, 7200, 14_400, 43_200, 86_400].map(
  (seconds) => seconds * 1000
);

/** Points of slices as bins of time. @param per what each is divided by: its requests, or the seconds that were recorded */
export function binsOf(
  points: readonly FunctionPoint[],
  per: 'request' | 'second'
): { bins: FunctionBin[]; binMs: number; fromMs: number; toMs: number } {
  const fromMs = Math.min(...points.map(({ startUs }) => startUs)) / 1000;
  const toMs = Math.max(...points.map(({ startUs, lengthUs }) => startUs + lengthUs)) / 1000;
  const binMs = STEPS.find((step) => (toMs - fromMs) / step <= MOST_BINS) ?? STEPS.at(-1)!;
  const sums = new Map<
    string,
    { at: number; release: number; requests: number; spanUs: number; us: number }
  >();
  for (const { startUs, release, requests, spanUs, totalUs } of points) {
    const at = Math.floor(startUs / 1000 / binMs) * binMs;
    const key = `${at} ${release}`;
    const sum = sums.get(key) ?? { at, release, requests: 0, spanUs: 0, us: 0 };
    sums.set(key, sum);
    sum.requests += requests;
    sum.spanUs += spanUs;
    sum.us += totalUs;
  }
  const bins = [...sums.values()].flatMap(({ at, release, requests, spanUs, us }): FunctionBin[] => {
    const by = per === 'request' ? requests : spanUs / 1e6;
    // Without a request nothing is known of one.
    return by > 0 ? [{ at, release, requests, figure: (us * 1000) / by }] : [];
  });
  // Whole bins: the last point is drawn in the middle of its own.
  return { bins: bins.sort((a, b) => a.at - b.at), binMs, fromMs, toMs: Math.ceil(toMs / binMs) * binMs };
}
