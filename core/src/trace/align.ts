import { changeOf, eachSide, type Sides } from '../sides';
import type { TraceTree } from './tree';

/** Like work of a request: its nodes, and how long they took in all, nanoseconds. */
export interface AlignedSide {
  nodes: number[];
  ns: number;
}

/** Like work of two requests side by side. */
export interface AlignedRow extends Sides<AlignedSide> {
  depth: number;
  /** What both have in common: a call's fingerprint or the name of the spans. */
  label: string;
  /** `extra` only the later has, `missing` only the earlier. */
  verdict: 'extra' | 'missing' | 'slower' | 'faster' | 'more' | 'fewer' | 'alike';
}

/** Differences smaller than both of these are not reported: they are ordinary. */
export const ALIGN_MIN_NS = 1e6;
export const ALIGN_MIN_RATIO = 1.3;

/** An entry span of a trace. */
export interface RequestTree {
  tree: TraceTree;
  root: number;
}

/**
 * Holds a request against another span by span: children alike in service and in what they call (or their name) belong
 * together, level by level, so that one call that became many is one row. General technique: alignment of labelled trees by key.
 * @returns rows in the order of the later request, what only the earlier has after its siblings.
 */
export function align(requests: Sides<RequestTree>): AlignedRow[] {
  const trees = eachSide(requests, ({ tree }) => tree);
  const rows: AlignedRow[] = [];
  const stack: (Group & { depth: number })[] = [
    {
      nodes: eachSide(requests, ({ root }) => [root]),
      depth: 0,
      label: labelOf(requests.after.tree, requests.after.root)
    }
  ];
  while (stack.length > 0) {
    const { nodes, depth, label } = stack.pop()!;
    rows.push(rowOf(trees, nodes, depth, label));
    const below = childGroups(trees, nodes);
    for (let i = below.length - 1; i >= 0; i--) stack.push({ ...below[i], depth: depth + 1 });
  }
  return rows;
}

/** Nodes of both sides that belong together. */
interface Group {
  nodes: Sides<number[]>;
  label: string;
}

/** What a node has in common with like ones: its call's fingerprint, or the name of its span. */
export const labelOf = (tree: TraceTree, node: number): string =>
  tree.nodes[node].call?.fingerprint ?? tree.nodes[node].span.name;

function childGroups(trees: Sides<TraceTree>, parents: Sides<number[]>): Group[] {
  const groups = new Map<string, Group>();
  for (const side of ['after', 'before'] as const) {
    const tree = trees[side];
    for (const parent of parents[side])
      for (const child of tree.reported.children[parent]) {
        const { span } = tree.nodes[child];
        const label = labelOf(tree, child);
        const key = `${span.resource.service} ${span.kind} ${label}`;
        let group = groups.get(key);
        if (!group) groups.set(key, (group = { nodes: { before: [], after: [] }, label }));
        group.nodes[side].push(child);
      }
  }
  return [...groups.values()];
}

function rowOf(trees: Sides<TraceTree>, nodes: Sides<number[]>, depth: number, label: string): AlignedRow {
  const sides = eachSide(nodes, (own, which): AlignedSide => {
    const { start, end } = trees[which];
    return { nodes: own, ns: own.reduce((sum, node) => sum + end[node] - start[node], 0) };
  });
  return { depth, label, ...sides, verdict: verdictOf(sides) };
}

function verdictOf({ before, after }: Sides<AlignedSide>): AlignedRow['verdict'] {
  const [was, is] = [before.nodes.length, after.nodes.length];
  if (was === 0) return 'extra';
  if (is === 0) return 'missing';
  if (is >= was * ALIGN_MIN_RATIO && is - was >= 2) return 'more';
  if (was >= is * ALIGN_MIN_RATIO && was - is >= 2) return 'fewer';
  if (Math.abs(after.ns - before.ns) < ALIGN_MIN_NS) return 'alike';
  if (after.ns >= before.ns * ALIGN_MIN_RATIO) return 'slower';
  if (before.ns >= after.ns * ALIGN_MIN_RATIO) return 'faster';
  return 'alike';
}

/** The row that got worse most by itself, without what the rows below it account for; null where none got worse. */
export function worstOf(rows: readonly AlignedRow[]): AlignedRow | null {
  const change = (row: AlignedRow): number => changeOf(row, ({ ns }) => ns);
  const own = rows.map(change);
  /** The last row seen at each depth: the one above the present row is what it is part of. */
  const last: number[] = [];
  rows.forEach((row, i) => {
    last[row.depth] = i;
    if (row.depth > 0) own[last[row.depth - 1]] -= change(row);
  });
  let worst = -1;
  rows.forEach(({ verdict }, i) => {
    if (WORSE.has(verdict) && (worst < 0 || own[i] > own[worst])) worst = i;
  });
  return rows[worst] ?? null;
}

const WORSE: ReadonlySet<AlignedRow['verdict']> = new Set(['extra', 'more', 'slower']);
