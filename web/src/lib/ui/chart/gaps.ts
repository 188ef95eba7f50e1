/** A point of a line, epoch milliseconds; null where nothing was measured. */
export type LinePoint = [at: number, value: number | null];

/** The points of a line with a hole wherever a bin is missing: nothing is drawn across time without data. */
export function withGaps<P extends { at: number }>(
  points: readonly P[],
  stepMs: number,
  value: (point: P) => number
): LinePoint[] {
  const out: LinePoint[] = [];
  points.forEach((point, i) => {
    const before = points[i - 1];
    if (before && point.at - before.at > stepMs * 1.5) out.push([before.at + stepMs, null]);
    out.push([point.at, value(point)]);
  });
  return out;
}

/** What a line draws at a point. */
export type LineDatum = LinePoint | { value: LinePoint; symbol: 'circle'; symbolSize: number };

/** The points of a line, those that stand alone as dots: a line needs two. */
export const withDots = (points: readonly LinePoint[], symbolSize = 4): LineDatum[] =>
  points.map((value, i) => {
    const isAlone = [points[i - 1], points[i + 1]].every((beside) => !beside || beside[1] === null);
    return isAlone && value[1] !== null ? { value, symbol: 'circle', symbolSize } : value;
  });
