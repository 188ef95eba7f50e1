import { defineRule } from './define-rule';
import { wholeName } from '../profile/units';
import { formatCount, formatShare } from '../text/format';
import { functionWeights } from '../profile/functions';
import { deepestRecursion } from '../profile/stack-tree';
import { severityOf } from './finding';
import {
  ENOUGH_SAMPLES,
  evidenceOf,
  placeName,
  type ProfileContext,
  type FoundInProfile
} from './profile-finding';

/** Walking a tree of data goes a dozen levels deep; deeper than this it is rather a list walked by recursion. Common practice. */
export const RECURSION_MIN_DEPTH = 20;
/** Below this part of the CPU the recursion costs nothing worth changing. */
export const RECURSION_MIN_SHARE = 0.1;

/** Functions whose depth is weighed at most. */
const MAX_LOOKED_AT = 8;

/** The weight of what runs where a function stands in itself that deep: a wide tree that is deep in one place is no deep recursion. */
function deepWeight(
  { nodeFrame, nodeParent }: ProfileContext['tree'],
  { self }: ProfileContext['weights'],
  frame: number
): number {
  const depth = new Uint32Array(nodeFrame.length);
  let sum = 0;
  for (let node = 1; node < nodeFrame.length; node++) {
    depth[node] = depth[nodeParent[node]] + (nodeFrame[node] === frame ? 1 : 0);
    if (depth[node] >= RECURSION_MIN_DEPTH) sum += self[node];
  }
  return sum;
}

/** A function that stands in itself many times over and takes a good part of the CPU. */
export const deepRecursion = defineRule({
  rule: 'deep-recursion',
  name: 'Deep recursion',
  looksFor:
    'A function that calls itself many levels deep and, with everything below it, takes a large share of the CPU.',
  thresholds: [
    {
      name: 'depth',
      value: `${RECURSION_MIN_DEPTH} or more`,
      why: 'Walking a tree of data goes about a dozen levels deep; anything deeper is more likely a list walked by recursion. Common practice.'
    },
    {
      name: 'share',
      value: `${formatShare(RECURSION_MIN_SHARE)} or more`,
      why: 'Less is not worth changing.'
    },
    ENOUGH_SAMPLES
  ],
  why: 'Branches often repeat the same work, so the cost grows with the depth, or exponentially with it.',
  doThis: ['Cache the results of equal calls, or use a loop.'],
  find
});

function find({ profile, tree, weights }: ProfileContext): FoundInProfile[] {
  const live = (node: number): boolean => weights.total[node] > 0;
  const deepest = deepestRecursion(tree.nodeFrame, tree.nodeParent, profile.frames.length, live);
  return functionWeights(profile.frames, tree, weights)
    .filter(
      ({ frame, total }) =>
        deepest[frame] >= RECURSION_MIN_DEPTH && total >= RECURSION_MIN_SHARE * weights.sum
    )
    .sort((a, b) => b.total - a.total)
    .slice(0, MAX_LOOKED_AT)
    .filter(({ frame }) => deepWeight(tree, weights, frame) >= RECURSION_MIN_SHARE * weights.sum)
    .slice(0, 1)
    .map(({ frame, self, total }) => {
      const share = total / weights.sum;
      const own = evidenceOf(profile, frame, share);
      return {
        title: 'Deep recursion',
        severity: severityOf(total, weights.sum),
        sentence: `${placeName(own)} calls itself up to ${formatCount(deepest[frame])} deep, and takes ${formatShare(share)} of the ${wholeName(profile)} with everything below it.`,
        remedy:
          'Check whether branches repeat the same work (then cache results), whether the data is deeper than intended, or whether a loop would do.',
        figures: { depth: deepest[frame], share, self, total },
        evidence: { function: own, callers: [] },
        cost: total,
        frame
      };
    });
}
