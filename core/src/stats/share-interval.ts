import type { Interval } from './interval';

/** z of a two-sided 95 % (tables of the standard normal distribution). */
const Z = 1.96;

/**
 * Where a share lies, by 95 of 100 samples like this one; for no samples it may be anything.
 * Source: E. B. Wilson, "Probable Inference, the Law of Succession, and Statistical Inference" (1927): the score interval.
 */
export function shareInterval(hits: number, all: number): Interval {
  if (all === 0) return { low: 0, high: 1 };
  const share = hits / all;
  const widened = 1 + Z ** 2 / all;
  const middle = (share + Z ** 2 / (2 * all)) / widened;
  const half = (Z / widened) * Math.sqrt((share * (1 - share)) / all + Z ** 2 / (4 * all ** 2));
  return { low: hits === 0 ? 0 : middle - half, high: hits === all ? 1 : middle + half };
}

/** Where the mean of samples lies, by 95 of 100 samples like these (the central limit theorem). @param effective so many independent samples would tell as much */
export const meanInterval = (mean: number, deviation: number, effective: number): Interval => {
  const half = effective > 1 ? (Z * deviation) / Math.sqrt(effective) : Infinity;
  return { low: mean - half, high: mean + half };
};
