export interface LinearFit {
  slope: number;
  intercept: number;
  /** Share of the variance the line explains, 0 to 1. */
  r2: number;
  points: number;
}

/**
 * The straight line through points by least squares; null with fewer than two different x.
 * Source: ordinary least squares (any textbook of statistics).
 */
export function linearFit(xs: readonly number[], ys: readonly number[]): LinearFit | null {
  const n = Math.min(xs.length, ys.length);
  if (n < 2) return null;
  let sumX = 0;
  let sumY = 0;
  for (let i = 0; i < n; i++) {
    sumX += xs[i];
    sumY += ys[i];
  }
  const [meanX, meanY] = [sumX / n, sumY / n];
  let xx = 0;
  let xy = 0;
  let yy = 0;
  for (let i = 0; i < n; i++) {
    xx += (xs[i] - meanX) ** 2;
    xy += (xs[i] - meanX) * (ys[i] - meanY);
    yy += (ys[i] - meanY) ** 2;
  }
  if (xx === 0) return null;
  const slope = xy / xx;
  return { slope, intercept: meanY - slope * meanX, r2: yy === 0 ? 1 : (xy * xy) / (xx * yy), points: n };
}
