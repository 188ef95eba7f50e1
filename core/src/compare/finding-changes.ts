import { eachSide, type Sides } from '../sides';
import { believable } from '../stats/false-discovery';
import { fisherTest } from '../stats/fisher-test';

/** A finding of one side: in how many of its requests it was reached. */
export interface FoundIn {
  rule: string;
  /** Equal for the same finding in other requests. */
  subject: string;
  requests: number;
}

export type FindingState = 'gone' | 'new' | 'rarer' | 'more frequent' | 'still there' | 'not told';

export interface FindingChange {
  rule: string;
  subject: string;
  /** Requests that have it. */
  found: Sides<number>;
  /** Of the side's requests; NaN for a side without one. */
  share: Sides<number>;
  state: FindingState;
  /** Two-sided probability of such shares by chance alone. */
  p: number;
}

/**
 * What became of each finding. Shares are compared by Fisher's exact test, all of them at once by Benjamini–Hochberg: a finding of two requests in a thousand
 * that no request of twenty has is not gone, but "not told".
 * @returns what is gone or new first, then what else clearly changed, then by how many requests have it.
 */
export function findingChanges(found: Sides<readonly FoundIn[]>, requests: Sides<number>): FindingChange[] {
  const byKey = new Map<string, { rule: string; subject: string; found: Sides<number> }>();
  eachSide(found, (list, side) => {
    for (const { rule, subject, requests: count } of list) {
      const key = `${rule}\n${subject}`;
      const change = byKey.get(key) ?? { rule, subject, found: { before: 0, after: 0 } };
      change.found[side] += count;
      byKey.set(key, change);
    }
  });
  const all = [...byKey.values()];
  const ps = all.map((one) => fisherTest(one.found.before, requests.before, one.found.after, requests.after));
  const { believed } = believable(ps);
  const changes = all.map((one, i) => {
    const share = eachSide(one.found, (count, side) => count / requests[side]);
    return { ...one, share, p: ps[i], state: stateOf(one.found, share, believed[i]) };
  });
  return changes.sort(
    (a, b) =>
      ORDER.indexOf(a.state) - ORDER.indexOf(b.state) ||
      Math.max(b.found.before, b.found.after) - Math.max(a.found.before, a.found.after)
  );
}

const ORDER: FindingState[] = ['gone', 'new', 'more frequent', 'rarer', 'still there', 'not told'];

function stateOf(found: Sides<number>, share: Sides<number>, believed: boolean): FindingState {
  if (found.after === 0) return believed ? 'gone' : 'not told';
  if (found.before === 0) return believed ? 'new' : 'not told';
  if (!believed) return 'still there';
  return share.after < share.before ? 'rarer' : 'more frequent';
}
