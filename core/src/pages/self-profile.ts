import * as v from 'valibot';
import { EvidenceError } from '../formats/evidence-error';
import { parseJson } from '../formats/parse-json';
import { maskUrl } from '../mask/url';

const index = v.pipe(v.number(), v.integer(), v.minValue(0));
const SelfProfile = v.object({
  resources: v.array(v.string()),
  frames: v.array(
    v.object({
      name: v.string(),
      resourceId: v.optional(index),
      line: v.optional(index),
      column: v.optional(index)
    })
  ),
  stacks: v.array(v.object({ parentId: v.optional(index), frameId: index })),
  samples: v.array(v.object({ timestamp: v.pipe(v.number(), v.finite()), stackId: v.optional(index) }))
});
type SelfProfile = v.InferOutput<typeof SelfProfile>;

/** Samples that are taken: at 10 ms that is over 80 minutes. */
const MAX_SAMPLES = 500_000;

/** Numbers of the nodes that no stack has. */
const ROOT = 1;
const IDLE = 2;
const FIRST = 3;

/**
 * A profile that a page made of itself (W3C JS Self-Profiling API, draft: `ProfilerTrace`; from memory) as a V8 CPU profile. A sample without a stack is
 * one in which no script ran.
 * @returns its JSON, and when its first sample was taken, milliseconds from the start of the navigation
 * @throws EvidenceError `not-a-profile`
 */
export function v8ProfileOf(content: string): { json: string; startMs: number } {
  const trace = parsed(content);
  const at = trace.samples.map(({ timestamp }) => timestamp);
  const nodes = nodesOf(trace);
  const microseconds = at.map((ms) => Math.round(ms * 1000));
  const json = JSON.stringify({
    nodes,
    startTime: microseconds[0],
    endTime: microseconds[microseconds.length - 1],
    samples: trace.samples.map(({ stackId }) => (stackId === undefined ? IDLE : FIRST + stackId)),
    timeDeltas: microseconds.map((us, i) => (i === 0 ? 0 : us - microseconds[i - 1]))
  });
  return { json, startMs: at[0] };
}

function parsed(content: string): SelfProfile {
  const refuse = (found: string): never => {
    throw new EvidenceError(
      'not-a-profile',
      `Expected a profile as a page makes it of itself (JS Self-Profiling), but ${found}.`
    );
  };
  let value: unknown;
  try {
    value = parseJson(content);
  } catch (cause) {
    return refuse(`it is no JSON: ${(cause as Error).message}`);
  }
  const read = v.safeParse(SelfProfile, value);
  if (!read.success) return refuse(read.issues[0].message);
  const { resources, frames, stacks, samples } = read.output;
  if (samples.length === 0) return refuse('it has no samples');
  if (samples.length > MAX_SAMPLES) return refuse(`it has more than ${MAX_SAMPLES} samples`);
  if (frames.some(({ resourceId = 0 }) => resourceId > 0 && resourceId >= resources.length))
    return refuse('a frame names a script that it does not list');
  // A stack is listed after the one it stands on: so none stands on itself.
  if (stacks.some(({ frameId, parentId = -1 }, i) => frameId >= frames.length || parentId >= i))
    return refuse('a stack names a frame or a stack that it does not list before');
  if (samples.some(({ stackId = 0 }) => stackId > 0 && stackId >= stacks.length))
    return refuse('a sample names a stack that it does not list');
  return read.output;
}

function nodesOf({ resources, frames, stacks }: SelfProfile): object[] {
  const children = new Map<number, number[]>([[ROOT, [IDLE]]]);
  stacks.forEach(({ parentId }, i) => {
    const parent = parentId === undefined ? ROOT : FIRST + parentId;
    const known = children.get(parent);
    if (known) known.push(FIRST + i);
    else children.set(parent, [FIRST + i]);
  });
  const node = (id: number, functionName: string, url = '', line = 0, column = 0): object => ({
    id,
    // The first line and column are 1 there, and 0 here.
    callFrame: { functionName, scriptId: '0', url, lineNumber: line - 1, columnNumber: column - 1 },
    hitCount: 0,
    children: children.get(id) ?? []
  });
  return [
    node(ROOT, '(root)'),
    node(IDLE, '(idle)'),
    ...stacks.map(({ frameId }, i) => {
      const { name, resourceId, line, column } = frames[frameId];
      const url = resourceId === undefined ? '' : maskUrl(resources[resourceId] ?? '');
      return node(FIRST + i, name, url, line, column);
    })
  ];
}
