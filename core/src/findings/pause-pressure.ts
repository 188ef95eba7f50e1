import { defineRule } from './define-rule';
import { wholeName } from '../profile/units';
import { formatDuration, formatShare } from '../text/format';
import { severityOf } from './finding';
import {
  ENOUGH_SAMPLES,
  evidenceOf,
  placeName,
  type FunctionEvidence,
  type ProfileContext,
  type FoundInProfile
} from './profile-finding';

/** A collector that takes more than this of the CPU is fed too much. Common practice. */
export const PAUSE_MIN_SHARE = 0.1;
const MAX_NAMED = 3;

/** Collecting garbage takes a good part of the CPU. */
export const pausePressure = defineRule({
  rule: 'pause-pressure',
  name: 'High garbage collection cost',
  looksFor: 'CPU time spent collecting garbage, and the functions that ran just before the collector.',
  thresholds: [
    {
      name: 'share',
      value: `${formatShare(PAUSE_MIN_SHARE)} or more`,
      why: 'A collector that takes more is given too many objects. Common practice.'
    },
    ENOUGH_SAMPLES
  ],
  why: 'While it collects, the program stops, and so does every request in the process.',
  doThis: ['Record allocations of the same process: they name the functions that make the objects.'],
  find
});

function find(context: ProfileContext): FoundInProfile[] {
  const { profile, tree, weights } = context;
  if (profile.valueType === 'allocation') return [];
  let cost = 0;
  let gcFrame = -1;
  for (let node = 0; node < tree.nodeFrame.length; node++) {
    if (profile.frames[tree.nodeFrame[node]].kind !== 'gc') continue;
    cost += weights.self[node];
    gcFrame = tree.nodeFrame[node];
  }
  if (gcFrame < 0 || cost < PAUSE_MIN_SHARE * weights.sum) return [];
  const share = cost / weights.sum;
  const callers = runningBefore(context);
  const before =
    callers.length > 0
      ? ` Just before the pauses ran ${callers.map((caller) => `${placeName(caller)} (${formatShare(caller.share)})`).join(', ')}; the samples do not say who allocated.`
      : ' The samples do not say who allocated.';
  return [
    {
      title: 'High garbage collection cost',
      severity: severityOf(cost, weights.sum),
      sentence: `Collecting garbage takes ${formatShare(share)} of the ${wholeName(profile)}${profile.unit === 'nanoseconds' ? `, ${formatDuration(cost)} in all` : ''}.${before}`,
      remedy:
        'Record allocations of the same process: they name the functions that make the objects. Then make fewer, or smaller ones.',
      figures: { share, cost },
      evidence: { function: evidenceOf(profile, gcFrame, share), callers },
      cost,
      frame: gcFrame
    }
  ];
}

/** The application's functions that ran just before the collector did, by the length of its pauses, over the whole recording. */
function runningBefore({ profile, tree }: ProfileContext): FunctionEvidence[] {
  const { sampleNode, sampleWeight, nodeFrame, frames } = profile;
  if (tree.nodeFrame !== nodeFrame) return [];
  const sums = new Map<number, number>();
  let all = 0;
  let last = -1;
  for (let i = 0; i < sampleNode.length; i++) {
    if (frames[nodeFrame[sampleNode[i]]].kind !== 'gc') {
      last = sampleNode[i];
      continue;
    }
    all += sampleWeight[i];
    let node = last;
    while (node > 0 && frames[nodeFrame[node]].kind !== 'app') node = tree.nodeParent[node];
    if (node > 0) sums.set(nodeFrame[node], (sums.get(nodeFrame[node]) ?? 0) + sampleWeight[i]);
  }
  return [...sums]
    .sort((a, b) => b[1] - a[1])
    .slice(0, MAX_NAMED)
    .map(([frame, weight]) => evidenceOf(profile, frame, weight / all));
}
