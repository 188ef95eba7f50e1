import type { NumberColumns } from './chunk';

/** A stretch of time over which a sum grew, epoch milliseconds. */
export interface Increase {
  fromMs: number;
  toMs: number;
  by: number;
}

/**
 * Longest stretch between two points over which an increase still is said to have come evenly, as a multiple of the usual one. Over a longer one the
 * sender was silent, and when it came is not told.
 */
const SILENT = 5;
/** No stretch up to here counts as silence, milliseconds: senders pause for a collection of garbage or a slow network. */
const NEVER_SILENT_MS = 150_000;

/**
 * The increases of a sum between its points. One that was set back began anew: its first value is what came since its start, where that is told.
 * Points of different starts are streams of their own, so that two senders of one name do not seem to fall back with every point.
 * Source: OpenTelemetry metrics data model, "Resets and gaps" and "Overlap".
 * @param columns ascending in time
 * @param isDelta each value is an increase already
 */
export function increasesOf(columns: NumberColumns, isDelta: boolean): Increase[] {
  const { atMs, startMs, values } = columns;
  const silentMs = silenceOf(atMs);
  const increases: Increase[] = [];
  const last = new Map<number, number>();
  for (let i = 0; i < atMs.length; i++) {
    const start = startMs[i];
    const before = last.get(isDelta ? 0 : start);
    last.set(isDelta ? 0 : start, i);
    const beforeMs = before === undefined ? 0 : atMs[before];
    if (isDelta) {
      const fromMs = Math.max(start, beforeMs);
      if (fromMs > 0) add(fromMs, i, values[i]);
      continue;
    }
    // A stream that starts while it is watched has come from nothing; of one that was there before only the differences are known.
    if (before === undefined) add(start, i, values[i]);
    else if (values[i] >= values[before]) add(beforeMs, i, values[i] - values[before]);
    // Set back without a new start: it began anew somewhere between the two.
    else add(beforeMs, i, values[i]);
  }
  return increases;

  function add(fromMs: number, i: number, by: number): void {
    const stretch = stretchOf(fromMs, atMs[i], silentMs);
    if (stretch) increases.push({ ...stretch, by });
  }
}

/**
 * The time over which something came; null where the beginning is not told, or so long ago that when it came is not. What was counted and sent within
 * one millisecond came in that millisecond.
 */
export function stretchOf(
  fromMs: number,
  toMs: number,
  silentMs: number
): Pick<Increase, 'fromMs' | 'toMs'> | null {
  if (fromMs <= 0 || fromMs > toMs || toMs - fromMs > silentMs) return null;
  return { fromMs: Math.min(fromMs, toMs - 1), toMs };
}

/** Milliseconds without a point from which on a series counts as silent. */
export function silenceOf(atMs: Float64Array): number {
  const usual = medianStep(atMs);
  return Math.max(NEVER_SILENT_MS, SILENT * usual);
}

/** The usual time between two points, milliseconds; 0 where there are fewer than two. */
function medianStep(atMs: Float64Array): number {
  const steps = atMs.subarray(1).map((at, i) => at - atMs[i]);
  return steps.length === 0 ? 0 : steps.sort()[steps.length >> 1];
}
