import { Warnings, type Warning } from '../formats/evidence-error';
import { accountedParents } from './accounted-parent';
import { isEntry } from './endpoint';
import { settleNestedCalls } from './nested-calls';
import { SpanKind, type Span } from './span';
import type { TraceNode } from './trace-node';

/** Who is whose parent. */
export interface TreeLinks {
  /** Parent node, −1 at a root. */
  parent: Int32Array;
  /** Children of each node by start, then span id. */
  children: number[][];
}

/**
 * The spans of one trace as a tree, in flat arrays indexed by node. Times are integer nanoseconds from `baseUs`,
 * after clock skew was taken out.
 */
export interface TraceTree extends TreeLinks {
  traceId: string;
  /** Epoch microseconds of offset 0: the earliest start as sent. */
  baseUs: number;
  nodes: TraceNode[];
  /** The links as reported, to be drawn; those of the tree itself are the ones time is accounted by (`accounted-parent.ts`). */
  reported: TreeLinks;
  roots: number[];
  /** Every node, parents before children. */
  order: Int32Array;
  start: Float64Array;
  end: Float64Array;
  /** Nanoseconds each node was moved to take out clock skew; 0 for most. */
  shift: Float64Array;
  warnings: Warning[];
}

/**
 * Builds the tree of one trace. Spans may come in any order. Duplicate span ids keep the first; a parent that is not
 * there becomes a visible missing node; a cycle of parents is cut at its earliest span; each is counted as a warning.
 * Clocks of other processes are shifted as chapter "Clock skew" of docs/engine.md says.
 * @param spans at least one span, all of one trace.
 */
export function buildTree(spans: readonly Span[]): TraceTree {
  const warnings = new Warnings();
  const nodes: TraceNode[] = [];
  const byId = new Map<string, number>();
  for (const span of spans) {
    if (byId.has(span.spanId)) {
      warnings.add('duplicate-span', 'A span id came more than once in this trace; the first was kept.');
      continue;
    }
    byId.set(span.spanId, nodes.length);
    nodes.push({ span, missing: false, account: 'ownCode', call: span.call });
  }
  let baseUs = Infinity;
  for (const { span } of nodes) baseUs = Math.min(baseUs, span.startUs);

  const parents = linkParents(nodes, byId, warnings);
  const count = nodes.length;
  const parent = Int32Array.from(parents);
  const start = new Float64Array(count);
  const end = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    const { span } = nodes[i];
    start[i] = (span.startUs - baseUs) * 1000 + span.startNs;
    end[i] = start[i] + span.durationNs;
  }
  cutCycles(parent, start, warnings);
  const links = linksOf(parent);
  const roots: number[] = [];
  for (let i = 0; i < count; i++) if (parent[i] < 0) roots.push(i);
  const order = topDown(links.children, roots, count);
  spanMissing(nodes, links.children, order, start, end);
  const shift = removeSkew(nodes, links.children, order, start, end, warnings);
  settleNestedCalls(nodes, order, parent);
  const byStart = (a: number, b: number): number =>
    start[a] - start[b] || (nodes[a].span.spanId < nodes[b].span.spanId ? -1 : 1);
  const sorted = (list: number[]): number[] => (list.length > 1 ? list.sort(byStart) : list);
  links.children.forEach(sorted);
  sorted(roots);
  const accounted = accountedParents({ nodes, ...links, roots, start, end });
  const moved = accounted.some((up, node) => up !== parent[node]);
  const accountedLinks = moved ? linksOf(accounted) : links;
  if (moved) accountedLinks.children.forEach(sorted);
  const traceId = nodes[0].span.traceId;
  return {
    traceId,
    baseUs,
    nodes,
    ...accountedLinks,
    reported: links,
    roots,
    order,
    start,
    end,
    shift,
    warnings: warnings.list()
  };
}

function linksOf(parent: Int32Array): TreeLinks {
  const children: number[][] = Array.from(parent, () => []);
  parent.forEach((up, node) => {
    if (up >= 0) children[up].push(node);
  });
  return { parent, children };
}

function linkParents(nodes: TraceNode[], byId: Map<string, number>, warnings: Warnings): number[] {
  const parents: number[] = [];
  const came = nodes.length;
  for (let i = 0; i < came; i++) {
    const { span } = nodes[i];
    if (span.parentId === '') {
      parents[i] = -1;
      continue;
    }
    let at = byId.get(span.parentId);
    if (at === undefined) {
      at = nodes.length;
      byId.set(span.parentId, at);
      nodes.push({ span: missingSpan(span), missing: true, account: 'unseen', call: null });
      parents[at] = -1;
    }
    if (nodes[at].missing) {
      warnings.add('missing-parent', 'A span names a parent that has not come.');
      if (isBefore(span, nodes[at].span)) nodes[at].span = missingSpan(span);
    }
    parents[i] = at;
  }
  return parents;
}

/** Whether a stand-in should be of this child's process rather: the earlier child, of those that begin together the first by name. */
function isBefore(child: Span, standIn: Span): boolean {
  const by = child.startUs - standIn.startUs || child.startNs - standIn.startNs;
  return by < 0 || (by === 0 && child.resource.key < standIn.resource.key);
}

/** The stand-in for a parent that never came: of the process of its earliest child, whatever order they came in. */
function missingSpan(child: Span): Span {
  return {
    ...child,
    spanId: child.parentId,
    parentId: '',
    name: '(missing parent)',
    kind: SpanKind.UNSPECIFIED,
    status: 0,
    statusMessage: '',
    attributes: new Map(),
    events: [],
    call: null
  };
}

/** Cuts each cycle of parents at its earliest member, which becomes a root. */
function cutCycles(parent: Int32Array, start: Float64Array, warnings: Warnings): void {
  const seen = new Int32Array(parent.length);
  for (let i = 0; i < parent.length; i++) {
    let at = i;
    while (at >= 0 && seen[at] === 0) {
      seen[at] = i + 1;
      at = parent[at];
    }
    if (at < 0 || seen[at] !== i + 1) continue;
    let earliest = at;
    for (let k = parent[at]; k !== at; k = parent[k]) if (start[k] < start[earliest]) earliest = k;
    parent[earliest] = -1;
    warnings.add('parent-cycle', 'Spans name each other as parents in a circle; it was cut at the earliest.');
  }
}

function topDown(children: number[][], roots: number[], count: number): Int32Array {
  const order = new Int32Array(count);
  let size = 0;
  for (const root of roots) order[size++] = root;
  for (let at = 0; at < size; at++) for (const child of children[order[at]]) order[size++] = child;
  return order;
}

/** A missing parent spans its children, the least it can have lasted. */
function spanMissing(
  nodes: TraceNode[],
  children: number[][],
  order: Int32Array,
  start: Float64Array,
  end: Float64Array
): void {
  for (const node of order) {
    if (!nodes[node].missing) continue;
    let from = Infinity;
    let to = -Infinity;
    for (const child of children[node]) {
      from = Math.min(from, start[child]);
      to = Math.max(to, end[child]);
    }
    start[node] = from;
    end[node] = to;
  }
}

/**
 * Where a span of another process lies outside its CLIENT parent, moves its whole subtree so that it lies centred
 * inside; a subtree longer than its parent is aligned to the parent's start only where the two do not touch at all.
 */
function removeSkew(
  nodes: TraceNode[],
  children: number[][],
  order: Int32Array,
  start: Float64Array,
  end: Float64Array,
  warnings: Warnings
): Float64Array {
  const shift = new Float64Array(nodes.length);
  for (const node of order) {
    for (const child of children[node]) {
      shift[child] = shift[node];
      start[child] += shift[node];
      end[child] += shift[node];
      if (nodes[node].missing || nodes[node].span.kind !== SpanKind.CLIENT) continue;
      if (nodes[node].span.resource.key === nodes[child].span.resource.key) continue;
      const move = skewOf(start[node], end[node], start[child], end[child]);
      if (move === 0) continue;
      shift[child] += move;
      start[child] += move;
      end[child] += move;
      warnings.add(
        'clock-skew',
        'The clock of another process disagrees with its caller; its spans were shifted.'
      );
    }
  }
  return shift;
}

function skewOf(parentStart: number, parentEnd: number, start: number, end: number): number {
  if (start >= parentStart && end <= parentEnd) return 0;
  const room = parentEnd - parentStart - (end - start);
  if (room >= 0) return parentStart + Math.floor(room / 2) - start;
  return start >= parentEnd || end <= parentStart ? parentStart - start : 0;
}

/** Where each node and everything below it stand in a walk that takes a node before its children. */
export interface Extents {
  first: Int32Array;
  /** The last place of what is below it; a node lies below another whose `first` to `last` hold its own `first`. */
  last: Int32Array;
}

const extentsOf = new WeakMap<TraceTree, Extents>();

/** Places in depth-first order, worked out once for each tree: they tell in one step whether a node lies below another. */
export function extents(tree: TraceTree): Extents {
  const known = extentsOf.get(tree);
  if (known) return known;
  const count = tree.nodes.length;
  const first = new Int32Array(count);
  const last = new Int32Array(count);
  let place = 0;
  const stack = tree.roots.toReversed();
  while (stack.length > 0) {
    const node = stack.pop()!;
    first[node] = last[node] = place++;
    for (let i = tree.children[node].length - 1; i >= 0; i--) stack.push(tree.children[node][i]);
  }
  for (let i = tree.order.length - 1; i >= 0; i--) {
    const up = tree.parent[tree.order[i]];
    if (up >= 0) last[up] = Math.max(last[up], last[tree.order[i]]);
  }
  const found = { first, last };
  extentsOf.set(tree, found);
  return found;
}

/** For each node the innermost request that contains it (a node index), −1 where none does. */
export function innermostRequests(tree: TraceTree): Int32Array {
  const of = new Int32Array(tree.nodes.length).fill(-1);
  for (const node of tree.order) {
    const up = tree.parent[node];
    of[node] = isRequest(tree, node) ? node : up < 0 ? -1 : of[up];
  }
  return of;
}

/** A request is an entry span, or the stand-in for a missing parent under which work hangs that no entry span covers. */
export function isRequest(tree: TraceTree, node: number): boolean {
  const { span, missing } = tree.nodes[node];
  if (!missing) return isEntry(span) || tree.parent[node] < 0;
  return tree.children[node].some((child) => !isEntry(tree.nodes[child].span));
}
