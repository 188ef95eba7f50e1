/** A stretch of a script that ran so often; stretches lie within each other (V8 precise coverage: `Profiler.CoverageRange`). */
export interface CoverageRange {
  startOffset: number;
  endOffset: number;
  count: number;
}

/** Longer scripts are not looked at, characters. */
const MAX_LENGTH = 50_000_000;

/**
 * Share of a script that did not run, by its ranges: of several that hold a place the innermost counts.
 * @returns null where nothing is known of it
 */
export function unusedShare(ranges: readonly CoverageRange[]): number | null {
  const length = ranges.reduce((end, { endOffset }) => Math.max(end, endOffset), 0);
  if (length === 0 || length > MAX_LENGTH) return null;
  const used = new Uint8Array(length);
  // Outer ranges come before those within them.
  const outerFirst = ranges.toSorted((a, b) => a.startOffset - b.startOffset || b.endOffset - a.endOffset);
  for (const { startOffset, endOffset, count } of outerFirst)
    used.fill(count > 0 ? 1 : 0, Math.max(0, startOffset), endOffset);
  let sum = 0;
  for (const one of used) sum += one;
  return 1 - sum / length;
}
