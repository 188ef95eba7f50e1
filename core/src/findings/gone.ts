import { CHANGE_MAX_P, CHANGE_MIN_COUNT } from '../stats/rank-test';

/** Requests of an endpoint under one release, and how many of them have a finding. */
export interface ReleaseTally {
  release: string;
  /** Epoch microseconds of the release's first request. */
  firstUs: number;
  requests: number;
  found: number;
  /** Begin of the last minute in which it may have been found, whoever caused it; epoch microseconds. Absent where it was not. */
  lastFoundUs?: number;
  /** What of it load runs caused. */
  ofRuns?: { requests: number; found: number };
}

/** A finding that a release no longer shows. */
export interface Gone {
  release: string;
  /** Requests under it and under later ones, none of which has the finding. */
  after: number;
  /** Requests before it, and how many of them had it. */
  before: number;
  found: number;
}

/**
 * The release since which a finding is gone: under it and all later ones no request has it, and by chance alone so many requests without it were
 * less likely than 1 in 1,000, given how often it was there before. Null where that is not so. Where users had it, only their requests tell: that a load run against a new release is
 * without it says nothing of theirs.
 * @param tallies one for each release, in any order.
 * @param later the same after `seenAgainUs`, where it was seen again: only those requests tell that it is gone.
 */
export function goneSince(tallies: readonly ReleaseTally[], later = tallies): Gone | null {
  const { earlier, since, told } = turnOf(tallies);
  if (earlier.length === 0 || since.length === 0) return null;
  const names = new Set(since.map(({ release }) => release));
  const [before, found] = [sum(earlier, 'requests'), sum(earlier, 'found')];
  const after = sum(
    later.map(told).filter(({ release }) => names.has(release)),
    'requests'
  );
  if (after < CHANGE_MIN_COUNT || before === 0) return null;
  const chance = (1 - Math.min(1, found / before)) ** after;
  return chance <= CHANGE_MAX_P ? { release: since[0].release, after, before, found } : null;
}

/**
 * When an earlier release last showed a finding after one without it had begun: it was rolled back, or still runs beside. Null where it was not seen
 * again.
 * @returns epoch microseconds
 */
export function seenAgainUs(tallies: readonly ReleaseTally[]): number | null {
  const { since } = turnOf(tallies);
  if (since.length === 0) return null;
  const lastUs = tallies.reduce((last, { lastFoundUs = 0 }) => Math.max(last, lastFoundUs), 0);
  return lastUs >= since[0].firstUs ? lastUs : null;
}

interface Turn {
  /** Releases up to the last that shows it. */
  earlier: ReleaseTally[];
  since: ReleaseTally[];
  /** What of a tally tells: of users, or all of it. */
  told: (tally: ReleaseTally) => ReleaseTally;
}

function turnOf(tallies: readonly ReleaseTally[]): Turn {
  const told = tallies.some((tally) => ofUsers(tally).found > 0) ? ofUsers : (tally: ReleaseTally) => tally;
  const sorted = tallies.map(told).toSorted((a, b) => a.firstUs - b.firstUs);
  const last = sorted.findLastIndex(({ found }) => found > 0);
  return { earlier: sorted.slice(0, last + 1), since: sorted.slice(last + 1), told };
}

const sum = (list: readonly ReleaseTally[], of: 'requests' | 'found'): number =>
  list.reduce((total, one) => total + one[of], 0);

/** A release without what load runs caused; one that served only those is none. */
const ofUsers = ({ ofRuns, ...tally }: ReleaseTally): ReleaseTally => ({
  ...tally,
  requests: tally.requests - (ofRuns?.requests ?? 0),
  found: tally.found - (ofRuns?.found ?? 0)
});
