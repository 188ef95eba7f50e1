import { wholeName } from '../profile/units';
import { formatShare } from '../text/format';
import type { Frame } from '../profile/model';
import { blameSentence, callersToBlame } from './callers-to-blame';
import { severityOf } from './finding';
import { evidenceOf, type ProfileContext, type ProfileFinding } from './profile-finding';

/** Making exceptions should cost next to nothing: they are for what is exceptional. */
export const THROWN_MIN_SHARE = 0.05;

/** Classes of errors are named so by convention in JavaScript, Java, Python and .NET (common practice); the rest captures their stacks. */
const MAKES_ERRORS =
  /(?:Error|Exception)$|^(?:captureStackTrace|captureLargerStackTrace|prepareStackTrace\w*|fillInStackTrace)$/;

export const makesErrors = ({ name, kind }: Pick<Frame, 'name' | 'kind'>): boolean =>
  kind !== 'root' && MAKES_ERRORS.test(name.replace(/^new /, ''));

/** Exceptions made so often that making them, and their stacks, is a good part of the CPU. */
export function thrownForControl(context: ProfileContext): ProfileFinding[] {
  const { profile, tree, weights } = context;
  const isError = profile.frames.map(makesErrors);
  const nodes: { node: number; weight: number }[] = [];
  let heaviest = -1;
  const byFrame = new Map<number, number>();
  const inside = new Uint8Array(tree.nodeFrame.length);
  let self = 0;
  for (let node = 1; node < tree.nodeFrame.length; node++) {
    const frame = tree.nodeFrame[node];
    const above = inside[tree.nodeParent[node]];
    inside[node] = above || isError[frame] ? 1 : 0;
    if (!isError[frame]) continue;
    self += weights.self[node];
    if (above) continue;
    nodes.push({ node, weight: weights.total[node] });
    const sum = (byFrame.get(frame) ?? 0) + weights.total[node];
    byFrame.set(frame, sum);
    if (heaviest < 0 || sum > byFrame.get(heaviest)!) heaviest = frame;
  }
  const cost = nodes.reduce((sum, { weight }) => sum + weight, 0);
  if (heaviest < 0 || cost < THROWN_MIN_SHARE * weights.sum) return [];
  const share = cost / weights.sum;
  const callers = callersToBlame(context, nodes, (frame) => isError[frame]);
  const own = evidenceOf(profile, heaviest, byFrame.get(heaviest)! / weights.sum);
  return [
    {
      rule: 'thrown-for-control',
      title: 'Exceptions as control flow',
      severity: severityOf(cost, weights.sum),
      sentence: `Making exceptions takes ${formatShare(share)} of the ${wholeName(profile)}, most of it in ${own.name}: each captures its stack.${blameSentence(callers)}`,
      remedy:
        'Where a failure is an ordinary answer, give it back as a value, or test before trying. An exception that must stay can do without its stack.',
      figures: { share, cost, self },
      evidence: { function: own, callers },
      ...(profile.unit === 'nanoseconds'
        ? { saving: { lowNs: Math.round(self), highNs: Math.round(cost) } }
        : {}),
      cost,
      frame: callers.length > 0 ? frameOf(profile.frames, callers[0]) : heaviest
    }
  ];
}

const frameOf = (
  frames: readonly Frame[],
  { name, file, line }: { name: string; file: string; line: number }
): number => frames.findIndex((frame) => frame.name === name && frame.file === file && frame.line === line);
