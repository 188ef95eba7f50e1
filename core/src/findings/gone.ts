import { CHANGE_MAX_P, CHANGE_MIN_COUNT } from '../stats/rank-test';

/** Requests of an endpoint under one release, and how many of them have a finding. */
export interface ReleaseTally {
  release: string;
  /** Epoch microseconds of the release's first request. */
  firstUs: number;
  requests: number;
  found: number;
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
 */
export function goneSince(tallies: readonly ReleaseTally[]): Gone | null {
  const users = tallies.map(ofUsers);
  const told = users.some(({ found }) => found > 0) ? users : tallies;
  const sorted = told.toSorted((a, b) => a.firstUs - b.firstUs);
  const last = sorted.findLastIndex(({ found }) => found > 0);
  const since = sorted.slice(last + 1);
  if (last < 0 || since.length === 0) return null;
  const sum = (list: readonly ReleaseTally[], of: 'requests' | 'found'): number =>
    list.reduce((total, one) => total + one[of], 0);
  const earlier = sorted.slice(0, last + 1);
  const [before, found, after] = [sum(earlier, 'requests'), sum(earlier, 'found'), sum(since, 'requests')];
  if (after < CHANGE_MIN_COUNT || before === 0) return null;
  const chance = (1 - Math.min(1, found / before)) ** after;
  return chance <= CHANGE_MAX_P ? { release: since[0].release, after, before, found } : null;
}

/** A release without what load runs caused; one that served only those is none. */
const ofUsers = ({ ofRuns, ...tally }: ReleaseTally): ReleaseTally => ({
  ...tally,
  requests: tally.requests - (ofRuns?.requests ?? 0),
  found: tally.found - (ofRuns?.found ?? 0)
});
