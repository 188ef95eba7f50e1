/** A stretch of time, milliseconds. */
export interface Stretch {
  fromMs: number;
  toMs: number;
}

/** A piece of an axis on which idle time is closed up: what it is of, and where it begins on the axis. */
export interface AxisPiece extends Stretch {
  /** Where it begins on the axis, milliseconds of it. */
  at: number;
  /** How long it is there: less than its time where it is an idle stretch that was closed up. */
  length: number;
  isIdle: boolean;
}

/** A longer stretch in which nothing happened is closed up, */
export const IDLE_MS = 5000;
/** and is so long then. */
export const CLOSED_MS = 1000;

/**
 * An axis over some stretches of time, on which every moment of them is as long as it was, and idle time between them is short.
 * @param stretches in any order; those that end before they begin are taken for moments
 * @returns the pieces in order of time, without a gap between them; none for no stretches
 */
export function closedAxis(stretches: readonly Stretch[]): AxisPiece[] {
  const pieces: AxisPiece[] = [];
  let at = 0;
  const add = (fromMs: number, toMs: number, length: number, isIdle: boolean): void => {
    pieces.push({ fromMs, toMs, at, length, isIdle });
    at += length;
  };
  for (const { fromMs, toMs } of busyStretches(stretches)) {
    const last = pieces.at(-1);
    if (last) add(last.toMs, fromMs, CLOSED_MS, true);
    add(fromMs, toMs, toMs - fromMs, false);
  }
  return pieces;
}

/** Stretches with less than an idle one between them as one, in order of time. */
function busyStretches(stretches: readonly Stretch[]): Stretch[] {
  const busy: Stretch[] = [];
  for (const { fromMs, toMs } of stretches.toSorted((a, b) => a.fromMs - b.fromMs)) {
    const last = busy.at(-1);
    const endMs = Math.max(fromMs, toMs);
    if (last && fromMs - last.toMs <= IDLE_MS) last.toMs = Math.max(last.toMs, endMs);
    else busy.push({ fromMs, toMs: endMs });
  }
  return busy;
}

/** Where a moment stands on an axis; its ends for one outside of it. 0 on an axis without pieces. */
export function placeOn(axis: readonly AxisPiece[], ms: number): number {
  const piece = axis.find(({ toMs }) => ms <= toMs) ?? axis.at(-1);
  if (!piece) return 0;
  const { fromMs, toMs, at, length } = piece;
  const part = toMs > fromMs ? Math.min(1, Math.max(0, (ms - fromMs) / (toMs - fromMs))) : 0;
  return at + part * length;
}

/** How long an axis is. */
export function lengthOf(axis: readonly AxisPiece[]): number {
  const last = axis.at(-1);
  return last ? last.at + last.length : 0;
}
