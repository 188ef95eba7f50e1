import type { Frame, Profile, StackTree } from './model';
import type { Slice } from './slice';

const clean = (text: string): string => text.replace(/[;\r\n]/g, ' ');

/** A frame as folded stacks name it: `name (file:line)`. */
function foldedName({ name, file, line }: Frame): string {
  const label = clean(name);
  return file ? `${label} (${clean(file)}${line > 0 ? `:${line}` : ''})` : label;
}

/**
 * Weighed stacks as folded text: one stack a line, root first, its own weight at the end (common practice). Weights are
 * integers: microseconds for nanoseconds, else as they are.
 */
export function writeFolded(
  frames: readonly Frame[],
  tree: StackTree,
  weights: Slice,
  unit: Profile['unit']
): string {
  const names = frames.map(foldedName);
  const lines: string[] = [];
  for (let node = 0; node < tree.nodeFrame.length; node++) {
    const weight = Math.round(unit === 'nanoseconds' ? weights.self[node] / 1000 : weights.self[node]);
    if (weight <= 0) continue;
    const stack: string[] = [];
    for (let at = node; at > 0; at = tree.nodeParent[at]) stack.push(names[tree.nodeFrame[at]]);
    if (stack.length > 0) lines.push(`${stack.reverse().join(';')} ${weight}`);
    else lines.push(`${names[tree.nodeFrame[0]]} ${weight}`);
  }
  return lines.length > 0 ? `${lines.join('\n')}\n` : '';
}

/**
 * Stacks as a V8 CPU profile (`Profiler.Profile` of the Chrome DevTools Protocol). Samples keep their order and times where the
 * profile has them; otherwise each stack becomes one sample as long as it weighs.
 * @param inside samples that belong to the selection, with the part of each that lies in it.
 */
export function writeV8CpuProfile(
  frames: readonly Frame[],
  tree: StackTree,
  samples: Iterable<{ node: number; timeNs: number; weightNs: number }>
): string {
  const children = Array.from(tree.nodeFrame, (): number[] => []);
  for (let node = 1; node < tree.nodeFrame.length; node++) children[tree.nodeParent[node]].push(node + 1);
  const ids: number[] = [];
  const timeDeltas: number[] = [];
  const hits = new Int32Array(tree.nodeFrame.length);
  let clock = 0;
  let end = 0;
  for (const { node, timeNs, weightNs } of samples) {
    const at = Math.round(timeNs / 1000);
    ids.push(node + 1);
    timeDeltas.push(at - clock);
    hits[node]++;
    clock = at;
    end = Math.max(end, Math.round((timeNs + weightNs) / 1000));
  }
  const nodes = Array.from(tree.nodeFrame, (index, node) => {
    const { name, file, line, column } = frames[index];
    return {
      id: node + 1,
      callFrame: {
        functionName: name,
        scriptId: '0',
        url: file,
        lineNumber: line - 1,
        columnNumber: column - 1
      },
      hitCount: hits[node],
      children: children[node]
    };
  });
  return JSON.stringify({ nodes, startTime: 0, endTime: end, samples: ids, timeDeltas });
}
