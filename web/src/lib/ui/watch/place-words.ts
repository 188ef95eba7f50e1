import { shortTime } from '$lib/ui/kit/time';
import { formatDuration } from '@tromix/core/text/format';

const MINUTE_MS = 60_000;

/** When a minute was over, epoch milliseconds: what is said of it is said from then on. */
export const endOf = (minute: number): number => (minute + 1) * MINUTE_MS;

/** How long a watch was on, or has been. */
export const lastedWords = (on: number, off: number | null, nowMs: number): string =>
  off === null
    ? `for ${formatDuration(Math.max(MINUTE_MS, nowMs - endOf(on)) * 1e6)}`
    : formatDuration((off - on) * 60e9);

export const onAt = (minute: number, nowMs: number): string => shortTime(endOf(minute), nowMs);
