import { defineRule } from './define-rule';
import { formatShare } from '../text/format';
import { functionWeights } from '../profile/functions';
import { wholeName } from '../profile/units';
import { blameSentence, callersToBlame } from './callers-to-blame';
import { severityOf } from './finding';
import {
  ENOUGH_SAMPLES,
  evidenceOf,
  placeName,
  type ProfileContext,
  type FoundInProfile
} from './profile-finding';

/** A function whose own code takes this part of all is worth a look before anything else. */
export const HOT_MIN_SHARE = 0.15;
const MAX_FOUND = 3;

/** A function whose own code takes a large part of the CPU. */
export const hotFunction = defineRule({
  rule: 'hot-function',
  name: 'Hot function',
  looksFor:
    'A function whose own code, without what it calls, takes a large share of the CPU, and the application functions that call it.',
  thresholds: [
    {
      name: 'own share',
      value: `${formatShare(HOT_MIN_SHARE)} or more`,
      why: 'Below that, even removing the function would hardly be noticed.'
    },
    ENOUGH_SAMPLES
  ],
  why: 'While a single-threaded process computes, it serves nothing else: one hot function delays every request.',
  doThis: [
    'Look at its lines. Do less in it, do it less often, or cache its result; if it is not your code, start with its callers.'
  ],
  find
});

function find(context: ProfileContext): FoundInProfile[] {
  const { profile, tree, weights } = context;
  return functionWeights(profile.frames, tree, weights)
    .filter(({ frame, self }) => {
      const { kind } = profile.frames[frame];
      return self >= HOT_MIN_SHARE * weights.sum && kind !== 'idle' && kind !== 'gc' && kind !== 'program';
    })
    .slice(0, MAX_FOUND)
    .map(({ frame, self, total }) => {
      const share = self / weights.sum;
      const { kind, package: from } = profile.frames[frame];
      const nodes: { node: number; weight: number }[] = [];
      for (let node = 1; node < tree.nodeFrame.length; node++)
        if (tree.nodeFrame[node] === frame && weights.self[node] > 0)
          nodes.push({ node, weight: weights.self[node] });
      const callers = callersToBlame(context, nodes, (other) => other === frame);
      const own = evidenceOf(profile, frame, share);
      const whose =
        kind === 'dependency' ? `, of the package ${from}` : kind === 'app' ? '' : `, ${kind} code`;
      return {
        title: profile.valueType === 'allocation' ? 'Hot allocator' : 'Hot function',
        severity: severityOf(self, weights.sum),
        sentence: `${placeName(own)}${whose} takes ${formatShare(share)} of the ${wholeName(profile)} by itself.${blameSentence(callers)}`,
        remedy:
          kind === 'app'
            ? 'Look at its lines: do less in it, do it less often, or cache its result.'
            : 'This is not your code: call it less often, or with less data. Start with its callers.',
        figures: { share, self, total, totalShare: total / weights.sum },
        evidence: { function: own, callers },
        cost: self,
        frame
      };
    });
}
