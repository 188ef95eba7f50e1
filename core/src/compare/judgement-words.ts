import { formatBytes, formatDuration, formatShare } from '../text/format';
import type { BudgetWhat, Judgement } from './judgement';
import { signedShare } from './words';

const NAMES: Record<BudgetWhat, string> = {
  medianMs: 'median',
  p95Ms: 'p95',
  slowerBy: 'median against A',
  callsPerRequest: 'calls a request',
  failedShare: 'failed',
  forbidden: 'requests with',
  share: 'share of the profile',
  growthBytes: 'growth of the heap'
};

const figure = (what: BudgetWhat, value: number): string => {
  switch (what) {
    case 'medianMs':
    case 'p95Ms':
      return formatDuration(value * 1e6);
    case 'slowerBy':
      return signedShare(value);
    case 'failedShare':
    case 'share':
      return formatShare(value);
    case 'growthBytes':
      return value < 0 ? `−${formatBytes(-value)}` : formatBytes(value);
    default:
      return String(Number(value.toPrecision(3)));
  }
};

/** What a line of a budget is about: `berths GET /board: p95`. */
export const judgementName = ({ of, what, limit }: Judgement): string =>
  `${of}: ${NAMES[what]}${what === 'forbidden' ? ` ${limit}` : ''}`;

/** What was measured against what was allowed: `84 ms (78 to 91 ms), at most 60 ms`. */
export function judgementWords({ what, limit, measured, within, reason }: Judgement): string {
  const allowed = typeof limit === 'number' ? `at most ${figure(what, limit)}` : 'at most 0';
  if (measured === null) return `not told, ${allowed}. ${reason}`;
  const sure =
    within && Number.isFinite(within.high)
      ? ` (95 %: ${figure(what, within.low)} to ${figure(what, within.high)})`
      : '';
  return `${figure(what, measured)}${sure}, ${allowed}`;
}
