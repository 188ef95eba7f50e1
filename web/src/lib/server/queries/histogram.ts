import { pairsOf, valueOf, type Sketch } from '@tromix/core/stats/sketch';
import { DURATION_CLASSES } from '$lib/endpoint-choices';

/** Durations in classes of equal ratio, ascending: [class, count], see `DURATION_CLASSES`. */
export type Histogram = [number, number][];

/** The classes of durations that are known by their sketch over microseconds. */
export function histogramOf(sketch: Sketch): Histogram {
  const classes = new Map<number, number>();
  for (const [bucket, count] of pairsOf(sketch)) {
    const at = Math.floor(Math.log10(valueOf(bucket)) * DURATION_CLASSES);
    classes.set(at, (classes.get(at) ?? 0) + count);
  }
  return [...classes].sort((a, b) => a[0] - b[0]);
}
