/** Points, minutes and hours of a series. */
export const LEVELS = { points: 0, minutes: 1, hours: 2 } as const;
export type SumLevel = 1 | 2;

const MINUTE_MS = 60_000;
const HOUR_MS = 3_600_000;
const DAY_MS = 86_400_000;

/** Points are put into blocks by this grid, and summed up once a cell of it is over. Blocks of an hour fill the pages of the database better than longer ones. */
export const CELL_MS = HOUR_MS;
/** So long after the end of a cell its late points are waited for, milliseconds. */
export const GRACE_MS = 10 * 60_000;

/** How long a bin of sums is, and the time one block of them covers, milliseconds. */
export const SUMS: Readonly<Record<SumLevel, { stepMs: number; blockMs: number }>> = {
  1: { stepMs: MINUTE_MS, blockMs: DAY_MS },
  2: { stepMs: HOUR_MS, blockMs: 30 * DAY_MS }
};

/** Minutes are kept so long, days; hours as long as other sums, see roll-up-steps.ts. */
export const MINUTE_DAYS = 30;
