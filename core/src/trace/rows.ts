import { groupBy } from '../group-by';
import { isFailed, subtree } from './requests';
import type { TraceTree } from './tree';

/** Like sibling calls fold into a comb from two on; other like siblings (same name) from five. */
const COMB_MIN_CALLS = 2;
const COMB_MIN_SPANS = 5;
/** Short ones from three on; short is at most a thousandth of the request. */
const COMB_MIN_SHORT = 3;
const SHORT_SHARE = 0.001;

/** A row of a request's timeline. */
export interface TimelineRow {
  /** `process`: the heading of a process; `span`: one node; `comb`: like siblings in one row. */
  kind: 'process' | 'span' | 'comb';
  /** Indentation below the request. */
  depth: number;
  /** The node; for a comb its first, for a process heading the first node under it. */
  node: number;
  /** The comb's nodes by start; empty for the others. */
  members: number[];
  /** Stable name of the row for folding and selection. */
  key: string;
  /** True where the row hides or may hide others. */
  foldable: boolean;
  open: boolean;
  /** The opened comb this call stands in, by its key; '' outside of one. */
  comb: string;
}

/** What still is to be drawn: a node with what is below it, or a comb. */
type Waiting = { depth: number } & ({ node: number; comb: string } | { members: number[] });

export interface FoldState {
  /** Combs shown as single calls. */
  openCombs: ReadonlySet<string>;
  /** Spans whose children are hidden. */
  closedSpans: ReadonlySet<string>;
  /** What folds into one comb: like calls of one parent, or of the whole process. */
  combBy?: 'parent' | 'fingerprint';
  /** Spans that take next to nothing and tell nothing else (middleware, say) fold into one comb of their parent, whatever their names. */
  foldShort?: boolean;
}

export interface Timeline {
  rows: TimelineRow[];
  /** For each node of the tree the row it is drawn in or hidden behind; −1 outside the request. */
  rowOf: Int32Array;
}

/**
 * The rows of a request's timeline: each process under its own heading, in the order the work reached it; the spans of a
 * process indented by depth; like siblings folded into combs.
 */
export function timelineRows(tree: TraceTree, root: number, folds: FoldState): Timeline {
  const rows: TimelineRow[] = [];
  const rowOf = new Int32Array(tree.nodes.length).fill(-1);
  const processOf = (node: number): string => tree.nodes[node].span.resource.key;
  const waiting: Waiting[] = [{ node: root, depth: 0, comb: '' }];
  let heading = '';
  const shortest = folds.foldShort ? SHORT_SHARE * (tree.end[root] - tree.start[root]) : -1;
  const everywhere = folds.combBy === 'fingerprint' ? likeCalls(tree, root) : null;

  const hide = (top: number, row: number): void => {
    if (tree.reported.children[top].length === 0) rowOf[top] = row;
    else for (const node of subtree(tree.reported, top)) rowOf[node] = row;
  };
  /** Emits one node and, below it, the rows of the same process; work of other processes waits for its own heading. */
  const emit = (first: Waiting): void => {
    const stack = [first];
    while (stack.length > 0) {
      const item = stack.pop()!;
      const { depth } = item;
      if ('members' in item) {
        rows.push(combRow(tree, item.members, depth));
        for (const member of item.members) hide(member, rows.length - 1);
        continue;
      }
      const { node, comb } = item;
      const key = tree.nodes[node].span.spanId;
      const open = !folds.closedSpans.has(key);
      const foldable = tree.reported.children[node].length > 0;
      rowOf[node] = rows.length;
      rows.push({ kind: 'span', depth, node, members: [], key, foldable, open, comb });
      if (!open) {
        hide(node, rows.length - 1);
        continue;
      }
      const below: Waiting[] = [];
      for (const siblings of siblingGroups(tree, node, shortest)) {
        const group = everywhere?.get(siblings[0]) ?? siblings;
        const combOf = group.length > 1 ? combKey(tree, group) : '';
        const place = processOf(siblings[0]) === processOf(node) ? below : waiting;
        if (combOf === '' || folds.openCombs.has(combOf))
          for (const child of siblings) place.push({ node: child, depth: depth + 1, comb: combOf });
        // Like calls of the whole process stand where the first of them does.
        else if (group[0] === siblings[0]) place.push({ members: group, depth: depth + 1 });
      }
      for (let i = below.length - 1; i >= 0; i--) stack.push(below[i]);
    }
  };

  for (let next = waiting.shift(); next; next = waiting.shift()) {
    const node = 'members' in next ? next.members[0] : next.node;
    const process = processOf(node);
    if (process !== heading) {
      rows.push({
        kind: 'process',
        depth: 0,
        node,
        members: [],
        key: `process ${rows.length}`,
        foldable: false,
        open: true,
        comb: ''
      });
      heading = process;
    }
    emit(next);
  }
  return { rows, rowOf };
}

/** For each call without children the like calls of its process, by start; only groups of at least two. */
function likeCalls(tree: TraceTree, root: number): Map<number, number[]> {
  const leaves = subtree(tree.reported, root).filter(
    (node) => tree.nodes[node].call && tree.reported.children[node].length === 0
  );
  const groups = groupBy(leaves, (node) => {
    const { span, call } = tree.nodes[node];
    return `${span.resource.key} ${call!.kind} ${call!.fingerprint}`;
  });
  const of = new Map<number, number[]>();
  for (const group of groups.values()) {
    if (group.length < COMB_MIN_CALLS) continue;
    group.sort((a, b) => tree.start[a] - tree.start[b] || a - b);
    for (const node of group) of.set(node, group);
  }
  return of;
}

/**
 * The heaviest branch: from a node down always the child that holds most of the critical path, while that is at least a third
 * of its parent's.
 * @param weight booked time of a node with all below it.
 */
export function heaviestSpans(tree: TraceTree, root: number, weight: (node: number) => number): number[] {
  const branch = [root];
  for (let at = root; ;) {
    let best = -1;
    for (const child of tree.children[at]) if (best < 0 || weight(child) > weight(best)) best = child;
    if (best < 0 || weight(best) * 3 < weight(at)) return branch;
    branch.push(best);
    at = best;
  }
}

/** Name of a comb for folding: its parent, its process and what its members have in common. */
export function combKey(tree: TraceTree, members: readonly number[]): string {
  const { span, call } = tree.nodes[members[0]];
  const name = isMixed(tree, members) ? '(short)' : (call?.fingerprint ?? span.name);
  return `comb ${span.parentId} ${span.resource.key} ${name}`;
}

function combRow(tree: TraceTree, members: number[], depth: number): TimelineRow {
  return {
    kind: 'comb',
    depth,
    node: members[0],
    members,
    key: combKey(tree, members),
    foldable: true,
    open: false,
    comb: ''
  };
}

/** A span of no call, no failure and no event that takes next to nothing, with as little below it. */
function isShort(tree: TraceTree, node: number, shortest: number, deep = 0): boolean {
  const { span, call, missing } = tree.nodes[node];
  if (missing || call || span.events.length > 0 || isFailed(span)) return false;
  if (tree.end[node] - tree.start[node] > shortest || deep > MAX_SHORT_DEPTH) return false;
  return tree.reported.children[node].every((child) => isShort(tree, child, shortest, deep + 1));
}
const MAX_SHORT_DEPTH = 4;

/** True for a comb of short spans of several names. */
export function isMixed(tree: TraceTree, members: readonly number[]): boolean {
  return members.some((node) => tree.nodes[node].span.name !== tree.nodes[members[0]].span.name);
}

/** Children of a node, like ones together, groups in the order of their first member. */
function siblingGroups(tree: TraceTree, node: number, shortest: number): number[][] {
  const groups: number[][] = [];
  const short = tree.reported.children[node].filter((child) => isShort(tree, child, shortest));
  const folded = new Set(short.length >= COMB_MIN_SHORT ? short : []);
  // Maps within a map: there may be thousands of siblings, and a key made of several texts would be made for each.
  const ofProcess = new Map<string, { calls: Map<string, number[]>; spans: Map<string, number[]> }>();
  for (const child of tree.reported.children[node]) {
    if (folded.has(child)) continue;
    const { span, missing, call } = tree.nodes[child];
    if (missing) {
      groups.push([child]);
      continue;
    }
    let like = ofProcess.get(span.resource.key);
    if (!like) ofProcess.set(span.resource.key, (like = { calls: new Map(), spans: new Map() }));
    const [known, name] = call ? [like.calls, call.fingerprint] : [like.spans, span.name];
    const group = known.get(name);
    if (group) group.push(child);
    else {
      const begun = [child];
      known.set(name, begun);
      groups.push(begun);
    }
  }
  const out: number[][] = folded.size > 0 ? [short] : [];
  for (const group of groups) {
    const least = tree.nodes[group[0]].call ? COMB_MIN_CALLS : COMB_MIN_SPANS;
    if (group.length >= least) out.push(group);
    else for (const single of group) out.push([single]);
  }
  return out.sort((a, b) => tree.start[a[0]] - tree.start[b[0]]);
}
