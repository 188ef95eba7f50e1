import { isEntry } from './endpoint';
import { CLOCK_STEP_NS } from './clock-step';
import type { TraceNode } from './trace-node';

/** What is needed of a tree: links as reported, times with clock skew taken out. */
interface ReportedTree {
  nodes: readonly TraceNode[];
  parent: Int32Array;
  children: readonly number[][];
  roots: readonly number[];
  start: Float64Array;
  end: Float64Array;
}

/**
 * Under which span each span is accounted for. A span that goes on after its parent ended (handed-over promises, streamed answers, resolvers)
 * belongs under the nearest span above it that is still open when it ends; where none is, under the one that stays open longest. Only spans of
 * one process move, and no entry span does: a caller does not wait for what another process does after the call was over. An overhang of a
 * clock's step is none.
 *
 * Runs in O(n log n): on the way down, the spans above that can still be chosen are kept by end, latest first.
 * @returns the accounted parent of each node, −1 at a root; always a reported ancestor.
 */
export function accountedParents(tree: ReportedTree): Int32Array {
  const { nodes, parent, children, roots, start, end } = tree;
  const accounted = parent.slice();
  const open = new Int32Array(nodes.length);
  let [base, size] = [0, 0];

  /** The first place from `base` on whose span ends before a moment, or with it. */
  const place = (ns: number): number => {
    let [low, high] = [base, size];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (end[open[middle]] <= ns) high = middle;
      else low = middle + 1;
    }
    return low;
  };
  const stack: Step[] = roots.toReversed().map((node) => ({ node }));
  while (stack.length > 0) {
    const step = stack.pop()!;
    if ('at' in step) {
      open[step.at] = step.was;
      ({ base, size } = step);
      continue;
    }
    const { node } = step;
    const saved = { base, size };
    const up = parent[node];
    if (up < 0 || startsAnew(nodes[up], nodes[node])) base = size;
    else if (end[node] - end[up] > overhang(end[node] - start[node])) {
      // Those before this place end later; the last of them is the nearest. One that ends with it is as good.
      const at = place(end[node]);
      const same = at < size && end[open[at]] === end[node];
      accounted[node] = open[same ? at : Math.max(base, at - 1)];
    }
    const at = place(end[node]);
    stack.push({ at, was: open[at], ...saved });
    open[at] = node;
    size = at + 1;
    for (let i = children[node].length - 1; i >= 0; i--) stack.push({ node: children[node][i] });
  }
  return accounted;
}

/** On the way down a node; on the way up what stood in its place before it. */
type Step = { node: number } | { at: number; was: number; base: number; size: number };

const overhang = (lengthNs: number): number => Math.min(CLOCK_STEP_NS, lengthNs / 2);

const startsAnew = (above: TraceNode, { span }: TraceNode): boolean =>
  isEntry(span) || above.span.resource.key !== span.resource.key;
