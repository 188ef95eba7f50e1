/** What somebody decided about a group of failures. */
export interface FailureMark {
  kind: 'fixed' | 'ignored';
  /** The release that fixes it; '' for the next one that comes. */
  release: string;
  /** Ignored until it happened so many times more; 0 for until a new release alone. */
  moreTimes: number;
  /** How often it had happened until then. */
  timesThen: number;
  atUs: number;
}

/** A release in which it happened. */
export interface SeenIn {
  release: string;
  /** When its release was first seen, and when it last happened in it; epoch microseconds. */
  firstUs: number;
  lastUs: number;
}

export interface FailureState {
  state: 'open' | 'fixed' | 'ignored' | 'back';
  /** The release that it is back since, or what else brought it back; '' where it is not back. */
  since: string;
}

/**
 * Whether a group that was marked is what it was marked as. Marked as fixed in a release, it is back when that or a later release shows it after that moment; ignored, when it happened so
 * often again, or in a release that came since. What an older release still shows of a fixed one is no return.
 * @param times how often it happened in all @param fixedFirstUs when the fixing release was first seen; null where it has not been seen yet
 */
export function failureState(
  mark: FailureMark | null,
  times: number,
  seenIn: readonly SeenIn[],
  fixedFirstUs: number | null
): FailureState {
  if (!mark) return { state: 'open', since: '' };
  const after = seenIn.filter(({ lastUs }) => lastUs >= mark.atUs).toSorted((a, b) => a.firstUs - b.firstUs);
  const fresh = after.find(({ firstUs, release }) =>
    mark.kind === 'fixed' && mark.release !== ''
      ? release === mark.release || (fixedFirstUs !== null && firstUs >= fixedFirstUs)
      : firstUs > mark.atUs
  );
  if (fresh) return { state: 'back', since: fresh.release };
  if (mark.kind === 'ignored' && mark.moreTimes > 0 && times - mark.timesThen >= mark.moreTimes)
    return { state: 'back', since: `${mark.moreTimes} more times` };
  return { state: mark.kind, since: '' };
}
