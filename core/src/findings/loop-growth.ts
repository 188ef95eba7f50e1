import { formatCount, formatShare } from '../text/format';

/** Fewer different row counts than this make no line. */
export const GROWTH_MIN_POINTS = 8;
/** The line must explain this much of the calls. */
export const GROWTH_MIN_R2 = 0.8;

/** States how a loop grows with the data, from the line through calls over rows; '' where the requests do not show it. */
export function growthSentence(
  fit: { slope: number; r2: number; points: number; intercept: number } | null,
  distinctRows: number,
  share: (value: number) => string = formatShare
): string {
  if (!fit || distinctRows < 3 || fit.points < GROWTH_MIN_POINTS) return '';
  if (fit.r2 < GROWTH_MIN_R2)
    return `Over ${formatCount(fit.points)} requests the calls do not follow the rows of the query before (a line explains ${share(fit.r2)}).`;
  const one = Math.abs(fit.slope - 1) < 0.1;
  const each = one ? 'one more call for each row' : `${fit.slope.toFixed(2)} more calls for each row`;
  return `Over ${formatCount(fit.points)} requests: ${each} of the query before (a line explains ${share(fit.r2)}).${one ? ' With ten times the rows it will be about ten times the calls.' : ''}`;
}
