import { formatDuration } from '@tromix/core/text/format';

const SECOND = 1e9;
const MINUTE = 60 * SECOND;
const HOUR = 60 * MINUTE;
/** Steps of an axis that reads well in minutes and hours, nanoseconds. */
const STEPS = [
  30 * SECOND,
  ...[1, 2, 5, 10, 15, 30].map((minutes) => minutes * MINUTE),
  ...[1, 2, 3, 6, 12, 24, 48, 120, 240].map((hours) => hours * HOUR)
];
/** Up to here durations are written in seconds, of which decimal steps read well. */
const DECIMAL = 2 * MINUTE;

/**
 * Marks of an axis of durations that read well: whole minutes and hours, where an axis would else have tenths of them.
 * @param greatestNs what is to be seen on it @param unitNs unit of the axis @param marks about so many, besides 0
 */
export function durationAxis(
  greatestNs: number,
  unitNs: number,
  marks: number
): { max?: number; interval?: number } {
  if (greatestNs < DECIMAL) return {};
  const step =
    STEPS.find((one) => one * marks >= greatestNs) ??
    Math.ceil(greatestNs / marks / STEPS.at(-1)!) * STEPS.at(-1)!;
  return { interval: step / unitNs, max: (Math.ceil(greatestNs / step) * step) / unitNs };
}

/** A mark of such an axis in words. @param unitNs unit of the axis */
export const durationMark =
  (unitNs: number) =>
  (value: number): string =>
    value === 0 ? '0' : formatDuration(value * unitNs);
