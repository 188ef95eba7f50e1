/** No evidence is older than the epoch; 0 stands for "no time" in OTLP. Epoch microseconds. */
export const FIRST_US = 1;
/** The beginning of the year 2200, epoch microseconds: later times are damage, and a sum of them would not be exact. */
export const LAST_US = Date.UTC(2200, 0, 1) * 1000;
/** Longest span, nanoseconds: 100 days, beyond which nanoseconds are no longer exact in a number (2^53 ns are 104 days). */
export const MAX_DURATION_NS = 100 * 86_400e9;

/** True for a time between the years 1970 and 2200. @param us epoch microseconds. */
export const inTimeRange = (us: number): boolean => us >= FIRST_US && us < LAST_US;

/** How a refusal names the range. */
export const TIME_RANGE = 'the years 1970 to 2200';
