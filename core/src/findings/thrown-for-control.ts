import { defineRule } from './define-rule';
import { wholeName } from '../profile/units';
import { formatShare } from '../text/format';
import type { Frame } from '../profile/model';
import { blameSentence, callersToBlame } from './callers-to-blame';
import { severityOf } from './finding';
import {
  ENOUGH_SAMPLES,
  evidenceOf,
  placeName,
  type ProfileContext,
  type FoundInProfile
} from './profile-finding';
import { throwingNodes } from './throwing-lines';

/** Making exceptions should cost next to nothing: they are for what is exceptional. */
export const THROWN_MIN_SHARE = 0.05;

/** Classes of errors are named so by convention in JavaScript, Java, Python and .NET (common practice); the rest captures their stacks. */
const MAKES_ERRORS =
  /(?:Error|Exception)$|^(?:captureStackTrace|captureLargerStackTrace|prepareStackTrace\w*|fillInStackTrace)$/;

export const makesErrors = ({ name, kind }: Pick<Frame, 'name' | 'kind'>): boolean =>
  kind !== 'root' && MAKES_ERRORS.test(name.replace(/^new /, ''));

/** A part of the cost of exceptions. */
interface Part {
  node: number;
  weight: number;
  self: number;
  frame: number;
  /** Line that throws, where the line was recognised; 0 where the function was. */
  line: number;
}

/** Exceptions made so often that making them, and their stacks, is a good part of the CPU. */
export const thrownForControl = defineRule({
  rule: 'thrown-for-control',
  name: 'Exceptions as control flow',
  looksFor:
    'CPU time spent creating exceptions: constructors of classes named error or exception, the functions that capture stacks, and lines whose source throws.',
  thresholds: [
    {
      name: 'share',
      value: `${formatShare(THROWN_MIN_SHARE)} or more`,
      why: 'Exceptions are for exceptional cases: creating them should cost next to nothing.'
    },
    ENOUGH_SAMPLES
  ],
  why: 'Each exception captures its stack, which costs many times more than the check that would avoid it. Caught at once, it leaves no trace in any log.',
  doThis: ['Return an ordinary failure as a value, or check before trying.'],
  find
});

function find(context: ProfileContext): FoundInProfile[] {
  const { profile, weights } = context;
  const isError = profile.frames.map(makesErrors);
  const parts = partsOf(context, isError);
  const cost = parts.reduce((sum, { weight }) => sum + weight, 0);
  if (parts.length === 0 || cost < THROWN_MIN_SHARE * weights.sum) return [];
  const self = parts.reduce((sum, part) => sum + part.self, 0);
  const share = cost / weights.sum;
  const callers = callersToBlame(
    context,
    parts.map(({ node, weight, line }) => ({ node, weight, itself: line > 0 })),
    (frame) => isError[frame]
  );
  const most = heaviestPlace(parts);
  const evidence = evidenceOf(profile, most.frame, most.weight / weights.sum);
  const own = most.line > 0 ? { ...evidence, line: most.line } : evidence;
  return [
    {
      title: 'Exceptions as control flow',
      severity: severityOf(cost, weights.sum),
      sentence: `Creating exceptions takes ${formatShare(share)} of the ${wholeName(profile)}, most of it in ${most.line > 0 ? placeName(own) : own.name}: each captures its stack.${blameSentence(callers, 'Created in')}`,
      remedy:
        'If failure is an ordinary outcome, return it as a value, or check before trying. An exception that must stay can do without its stack.',
      figures: { share, cost, self },
      evidence: { function: own, callers },
      ...(profile.unit === 'nanoseconds'
        ? { saving: { lowNs: Math.round(self), highNs: Math.round(cost) } }
        : {}),
      cost,
      frame: callers.length > 0 ? frameOf(profile.frames, callers[0]) : most.frame
    }
  ];
}

/** Functions that make exceptions, with all they call, and lines that do where there is no such function. */
function partsOf(context: ProfileContext, isError: readonly boolean[]): Part[] {
  const { tree, weights } = context;
  const parts: Part[] = [];
  // Of a function that makes exceptions, what it costs by itself, wherever it stands among what such a function calls.
  const selfOf = new Map<number, number>();
  const top = new Int32Array(tree.nodeFrame.length).fill(-1);
  const inside = new Uint8Array(tree.nodeFrame.length);
  for (let node = 1; node < tree.nodeFrame.length; node++) {
    const frame = tree.nodeFrame[node];
    const above = top[tree.nodeParent[node]];
    top[node] = above >= 0 || !isError[frame] ? above : node;
    inside[node] = top[node] >= 0 ? 1 : 0;
    if (isError[frame]) selfOf.set(top[node], (selfOf.get(top[node]) ?? 0) + weights.self[node]);
  }
  for (const [node, self] of selfOf)
    parts.push({ node, weight: weights.total[node], self, frame: tree.nodeFrame[node], line: 0 });
  for (const { node, line, weight } of throwingNodes(context, inside))
    parts.push({ node, weight, self: weight, frame: tree.nodeFrame[node], line });
  return parts;
}

function heaviestPlace(parts: readonly Part[]): Pick<Part, 'frame' | 'line' | 'weight'> {
  const places = new Map<string, Pick<Part, 'frame' | 'line' | 'weight'>>();
  for (const { frame, line, weight } of parts) {
    const place = places.get(`${frame} ${line}`) ?? { frame, line, weight: 0 };
    place.weight += weight;
    places.set(`${frame} ${line}`, place);
  }
  return [...places.values()].reduce((most, place) => (place.weight > most.weight ? place : most));
}

const frameOf = (
  frames: readonly Frame[],
  { name, file, line }: { name: string; file: string; line: number }
): number => frames.findIndex((frame) => frame.name === name && frame.file === file && frame.line === line);
