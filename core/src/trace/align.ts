import type { TraceTree } from './tree';

/** Like work of two requests side by side. Nanoseconds. */
export interface AlignedRow {
  depth: number;
  /** What both have in common: a call's fingerprint or the name of the spans. */
  label: string;
  /** Nodes of the first and of the second tree. */
  first: number[];
  second: number[];
  firstNs: number;
  secondNs: number;
  /** `extra` only the first has, `missing` only the second. */
  verdict: 'extra' | 'missing' | 'slower' | 'faster' | 'more' | 'fewer' | 'alike';
}

/** Differences smaller than both of these are not told: they are ordinary. */
export const ALIGN_MIN_NS = 1e6;
export const ALIGN_MIN_RATIO = 1.3;

/**
 * Holds two requests against each other span by span: children alike in service and in what they call (or their name) belong
 * together, level by level, so that one call that became many is one row. General technique: alignment of labelled trees by key.
 * @returns rows in the order of the first request, what only the second has after its siblings.
 */
export function align(
  first: TraceTree,
  firstRoot: number,
  second: TraceTree,
  secondRoot: number
): AlignedRow[] {
  const rows: AlignedRow[] = [];
  const stack: { a: number[]; b: number[]; depth: number; label: string }[] = [
    { a: [firstRoot], b: [secondRoot], depth: 0, label: labelOf(first, firstRoot) }
  ];
  while (stack.length > 0) {
    const { a, b, depth, label } = stack.pop()!;
    rows.push(rowOf(first, second, a, b, depth, label));
    const below = childGroups(first, a, second, b).map((group) => ({ ...group, depth: depth + 1 }));
    for (let i = below.length - 1; i >= 0; i--) stack.push(below[i]);
  }
  return rows;
}

const labelOf = (tree: TraceTree, node: number): string =>
  tree.nodes[node].call?.fingerprint ?? tree.nodes[node].span.name;

function childGroups(
  first: TraceTree,
  a: readonly number[],
  second: TraceTree,
  b: readonly number[]
): { a: number[]; b: number[]; label: string }[] {
  const groups = new Map<string, { a: number[]; b: number[]; label: string }>();
  const gather = (tree: TraceTree, parents: readonly number[], side: 'a' | 'b'): void => {
    for (const parent of parents)
      for (const child of tree.reported.children[parent]) {
        const { span } = tree.nodes[child];
        const label = labelOf(tree, child);
        const key = `${span.resource.service} ${span.kind} ${label}`;
        let group = groups.get(key);
        if (!group) groups.set(key, (group = { a: [], b: [], label }));
        group[side].push(child);
      }
  };
  gather(first, a, 'a');
  gather(second, b, 'b');
  return [...groups.values()];
}

const lengthOf = (tree: TraceTree, nodes: readonly number[]): number =>
  nodes.reduce((sum, node) => sum + tree.end[node] - tree.start[node], 0);

function rowOf(
  first: TraceTree,
  second: TraceTree,
  a: number[],
  b: number[],
  depth: number,
  label: string
): AlignedRow {
  const firstNs = lengthOf(first, a);
  const secondNs = lengthOf(second, b);
  const row = { depth, label, first: a, second: b, firstNs, secondNs };
  return { ...row, verdict: verdictOf(row) };
}

function verdictOf({ first, second, firstNs, secondNs }: Omit<AlignedRow, 'verdict'>): AlignedRow['verdict'] {
  if (second.length === 0) return 'extra';
  if (first.length === 0) return 'missing';
  const notable = Math.abs(firstNs - secondNs) >= ALIGN_MIN_NS;
  if (first.length >= second.length * ALIGN_MIN_RATIO && first.length - second.length >= 2) return 'more';
  if (second.length >= first.length * ALIGN_MIN_RATIO && second.length - first.length >= 2) return 'fewer';
  if (notable && firstNs >= secondNs * ALIGN_MIN_RATIO) return 'slower';
  if (notable && secondNs >= firstNs * ALIGN_MIN_RATIO) return 'faster';
  return 'alike';
}
