import { defineRule } from './define-rule';
import { functionWeights } from '../profile/functions';
import { formatCount, formatDuration, formatShare } from '../text/format';
import { blameSentence, callersToBlame } from './callers-to-blame';
import { severityOf } from './finding';
import {
  ENOUGH_SAMPLES,
  evidenceOf,
  placeName,
  type FoundInProfile,
  type ProfileContext
} from './profile-finding';

/** So many calls a second of recording. */
export const OFTEN_A_SECOND = 10_000;
/** A call that takes no longer is cheap by itself. Nanoseconds. */
export const SHORT_NS = 10_000;
/** All its calls together take this part of the CPU. */
export const OFTEN_MIN_SHARE = 0.05;
const MAX_FOUND = 3;

/** A function that is called very often and is short: a loop around a cheap call. Only of recordings that counted calls. */
export const calledOften = defineRule({
  rule: 'called-often',
  name: 'Called very often',
  looksFor:
    'A function of the application or a dependency whose calls are short and so many that together they take a good part of the CPU, where a recording counted calls.',
  thresholds: [
    {
      name: 'calls',
      value: `${formatCount(OFTEN_A_SECOND)} or more a second`,
      why: 'Rarer ones are seldom a loop worth changing.'
    },
    {
      name: 'a call',
      value: `${formatDuration(SHORT_NS)} or less on average, with what it calls`,
      why: 'What takes longer is worth a look by itself, not for how often it is called.'
    },
    {
      name: 'together',
      value: `${formatShare(OFTEN_MIN_SHARE)} of the CPU or more`,
      why: 'Below that, calling it less often would hardly be noticed.'
    },
    ENOUGH_SAMPLES
  ],
  why: 'No single call looks slow, so nobody looks at it; the loop around it is what costs.',
  doThis: [
    'Call it less often: move it out of the loop, keep its result, or find what is sought by a key instead of a search.'
  ],
  find
});

function find(context: ProfileContext): FoundInProfile[] {
  const { profile, tree, weights } = context;
  const { calls, durationNs } = profile;
  // Calls are counted for the whole recording: of a part of it the weights would be of something else.
  if (!calls || durationNs <= 0 || weights.sum + weights.idle < durationNs / 2) return [];
  const seconds = durationNs / 1e9;
  return functionWeights(profile.frames, tree, weights)
    .filter(({ frame, total }) => {
      const { kind } = profile.frames[frame];
      const counted = calls[frame];
      return (
        (kind === 'app' || kind === 'dependency') &&
        counted >= OFTEN_A_SECOND * seconds &&
        total <= SHORT_NS * counted &&
        total >= OFTEN_MIN_SHARE * weights.sum
      );
    })
    .sort((a, b) => b.total - a.total)
    .slice(0, MAX_FOUND)
    .map(({ frame, self, total }) => {
      const share = total / weights.sum;
      const nodes: { node: number; weight: number }[] = [];
      for (let node = 1; node < tree.nodeFrame.length; node++)
        if (tree.nodeFrame[node] === frame && tree.nodeOutermost[node])
          nodes.push({ node, weight: weights.total[node] });
      const callers = callersToBlame(context, nodes, (other) => other === frame);
      const own = evidenceOf(profile, frame, share);
      return {
        title: 'Called very often',
        severity: severityOf(total, weights.sum),
        sentence: `${placeName(own)} was called ${formatCount(calls[frame])} times, about ${formatDuration(total / calls[frame])} each: together ${formatShare(share)} of the CPU.${blameSentence(callers)}`,
        remedy:
          'Call it less often: move it out of the loop, keep its result, or look up by a key instead of searching.',
        figures: { share, self, total, calls: calls[frame], meanNs: total / calls[frame] },
        evidence: { function: own, callers },
        cost: total,
        frame
      };
    });
}
