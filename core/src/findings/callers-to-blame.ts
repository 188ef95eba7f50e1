import type { FunctionEvidence, ProfileContext } from './profile-finding';
import { evidenceOf, placeName } from './profile-finding';
import { formatShare } from '../text/format';

/** Callers below this part of the weight are not named. */
const MIN_SHARE = 0.05;
const MAX_NAMED = 3;

interface BlamedNode {
  node: number;
  weight: number;
  /** The function itself may be to blame, not only who called it. */
  itself?: boolean;
}

/**
 * Who is to blame for a weight: of each node the nearest frame above that is the application's own and no part of the
 * thing itself. Heaviest first.
 * @param isPart true for frames that belong to what is blamed.
 */
export function callersToBlame(
  { profile, tree }: ProfileContext,
  nodes: readonly BlamedNode[],
  isPart: (frame: number) => boolean
): FunctionEvidence[] {
  const sums = new Map<number, number>();
  let all = 0;
  for (const { node, weight, itself } of nodes) {
    all += weight;
    let at = itself ? node : tree.nodeParent[node];
    while (at > 0 && (isPart(tree.nodeFrame[at]) || profile.frames[tree.nodeFrame[at]].kind !== 'app'))
      at = tree.nodeParent[at];
    if (at > 0) sums.set(tree.nodeFrame[at], (sums.get(tree.nodeFrame[at]) ?? 0) + weight);
  }
  return [...sums]
    .sort((a, b) => b[1] - a[1])
    .filter(([, weight]) => weight >= MIN_SHARE * all)
    .slice(0, MAX_NAMED)
    .map(([frame, weight]) => evidenceOf(profile, frame, weight / all));
}

/** `Called from a (70 %) and b (30 %).`; '' where nobody is known. */
export function blameSentence(callers: readonly FunctionEvidence[], how = 'Called from'): string {
  if (callers.length === 0) return '';
  const named = callers.map((caller) => `${placeName(caller)} for ${formatShare(caller.share)} of it`);
  const last = named.pop()!;
  return ` ${how} ${named.length > 0 ? `${named.join(', ')} and ${last}` : last}.`;
}
