/** A release that came. */
export interface ReleaseFlag {
  /** Epoch milliseconds. */
  at: number;
  service: string;
  release: string;
}

/** Pixels of a sign of the flags' face, and around the text. */
const SIGN = 6.1;
const PADDING = 12;
/** Longer texts would hide more than they tell. */
const MOST_SIGNS = 28;

/** Releases so near to each other that one flag stands for all. */
export interface FlagGroup<F extends ReleaseFlag = ReleaseFlag> {
  /** Where each came. */
  at: number[];
  label: string;
  /** Pixels of the flag. */
  length: number;
  /** All of them in words. */
  about: string;
  /** The newest of them. */
  newest: F;
}

/**
 * Flags of releases, those that would lie over each other as one.
 * @param x pixel of a time
 * @param right from here on a flag has no room behind its line, and stands before it
 */
export function flagGroups<F extends ReleaseFlag>(
  flags: readonly F[],
  x: (ms: number) => number,
  right = Infinity
): FlagGroup<F>[] {
  const groups: F[][] = [];
  for (const flag of flags.toSorted((a, b) => a.at - b.at)) {
    const last = groups.at(-1);
    if (last && x(flag.at) - x(last[0].at) < lengthOf(labelOf(last))) last.push(flag);
    else groups.push([flag]);
  }
  // The last one may stand before its line, over the one before it.
  for (;;) {
    const [before, last] = groups.slice(-2);
    if (!last) break;
    const length = lengthOf(labelOf(last));
    const isFlipped = x(last[0].at) + length > right;
    if (!isFlipped || x(last[last.length - 1].at) - length >= x(before[0].at) + lengthOf(labelOf(before)))
      break;
    groups.splice(-2, 2, [...before, ...last]);
  }
  return groups.map((of) => ({
    at: of.map(({ at }) => at),
    label: labelOf(of),
    length: lengthOf(labelOf(of)),
    about: of.map(nameOf).join(', '),
    newest: of[of.length - 1]
  }));
}

const nameOf = ({ service, release }: ReleaseFlag): string => `${service} ${release}`;
const lengthOf = (label: string): number => label.length * SIGN + PADDING;

function labelOf(flags: readonly ReleaseFlag[]): string {
  const whole = flags.map(nameOf).join(', ');
  if (whole.length <= MOST_SIGNS) return whole;
  return flags.length === 1 ? `${whole.slice(0, MOST_SIGNS - 1)}…` : `${flags.length} releases`;
}
