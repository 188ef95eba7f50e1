import { ACCOUNTS, emptyLedger, type Ledger } from './account';
import { book, bookWindow, type Stretch, type Work } from './booking';
import { endpointOf, isEntry } from './endpoint';
import { numberOf, SpanKind, StatusCode, type Span } from './span';
import { RequestSums, UNSEEN_MIN_NS, type TimeSum } from './request-sums';
import { splitByAccount, type BookedStretch } from './timed-events';
import { innermostRequests, type TraceTree, type TreeLinks } from './tree';

export { UNSEEN_MIN_NS };
/** Own-code stretches longer than this share of the request, and than `UNSEEN_MIN_NS`, are booked as unseen where nothing was recorded inside. */
export const UNSEEN_MIN_SHARE = 0.1;

/** Steps that accounting for one trace may take: far more than any trace but one made to overlap throughout. */
const STEPS_PER_NODE = 200;
const LEAST_STEPS = 20_000_000;

/**
 * What an account of time is of: a `request`; `background` work, a root span that serves nobody (a timer, a file read at start); or `work`, a root
 * span of no entry kind that makes calls: a request only where its service sends no entry spans at all.
 */
export type RequestKind = 'request' | 'background' | 'work';

/** One request of a trace, or its background work, with its account of time. Nanoseconds throughout. */
export class RequestAccount {
  readonly node: number;
  readonly kind: RequestKind;
  readonly endpoint: string;
  readonly failed: boolean;
  readonly durationNs: number;
  /** Nodes for which this is the innermost request, itself first, parents before children. */
  readonly ownNodes: readonly number[];
  /** The part of the critical path in own nodes, in time order. */
  readonly ownStretches: readonly BookedStretch[];
  /** The parts of it that requests inside this one take, each by its entry. */
  readonly inner: readonly Stretch[];
  /** Spans of the request with everything below it, and how many of them are calls. */
  readonly spanCount: number;
  readonly callCount: number;
  /** How long its own work went on after its end, nanoseconds: in no account and no share. */
  readonly afterNs: number;
  /** Adds up to `durationNs`. */
  readonly ledger: Ledger;
  /** The part of the outermost request's wall time in which this request is the innermost: sums over requests count once. */
  readonly exclusive: Ledger = emptyLedger();
  exclusiveNs = 0;
  readonly #tree: TraceTree;
  #stretches: BookedStretch[] | undefined;
  #booked: Map<number, number> | undefined;
  #ownBooked: Map<number, number> | undefined;
  #nodes: number[] | undefined;
  #within: Float64Array | undefined;
  #ownWithin: ((node: number) => number) | undefined;

  constructor(tree: TraceTree, node: number, own: OwnPart, ledger: Ledger, counts: SubtreeCounts) {
    const { span } = tree.nodes[node];
    this.#tree = tree;
    this.node = node;
    this.endpoint = tree.nodes[node].missing ? span.name : endpointOf(span);
    this.failed = isFailed(span);
    this.durationNs = tree.end[node] - tree.start[node];
    this.ownNodes = own.nodes;
    this.ownStretches = own.stretches;
    this.inner = own.inner;
    this.ledger = ledger;
    this.spanCount = counts.spans[node];
    this.callCount = counts.calls[node];
    this.kind = kindOf(tree, node, this.callCount);
    this.afterNs = own.nodes.reduce((most, one) => Math.max(most, tree.end[one] - tree.end[node]), 0);
  }

  /** The critical path in time order, inner requests included; tiles the request exactly. Worked out when first asked for. */
  get stretches(): BookedStretch[] {
    if (!this.#stretches) {
      const tree = this.#tree;
      // Without requests inside it is what it does itself.
      if (this.inner.length === 0) return (this.#stretches = this.ownStretches as BookedStretch[]);
      this.#stretches = [];
      for (const stretch of book(tree, this.node)) splitByAccount(tree, stretch, this.#stretches);
      markUnseen(this.#stretches, this.durationNs);
    }
    return this.#stretches;
  }

  /** Each node's own part of the critical path; nodes without one are left out. */
  get booked(): Map<number, number> {
    return (this.#booked ??= sumByNode(this.stretches));
  }

  /** The same for own nodes, without what is inside. */
  get ownBooked(): Map<number, number> {
    return (this.#ownBooked ??= sumByNode(this.ownStretches));
  }

  /** The nodes of the request with everything below it, itself first, parents before children. Worked out when first asked for. */
  get nodes(): readonly number[] {
    return (this.#nodes ??= subtree(this.#tree, this.node));
  }

  /** The critical path's time inside each of these nodes and everything below it, by node, nanoseconds. */
  get within(): Float64Array {
    return (this.#within ??= bookedWithin(this.#tree, this.nodes, this.booked));
  }

  /** The same for own nodes. What requests inside this one take is in the nodes above them. */
  get ownWithin(): (node: number) => number {
    return (this.#ownWithin ??= bookedInOwn(this.#tree, this));
  }
}

function kindOf({ nodes, parent }: TraceTree, node: number, calls: number): RequestKind {
  const { missing, span } = nodes[node];
  if (missing || parent[node] >= 0 || isEntry(span)) return 'request';
  const own = span.kind === SpanKind.INTERNAL || span.kind === SpanKind.UNSPECIFIED;
  return own && calls > 0 ? 'work' : 'background';
}

function sumByNode(stretches: readonly Stretch[]): Map<number, number> {
  const sums = new Map<number, number>();
  for (const { node, from, to } of stretches) sums.set(node, (sums.get(node) ?? 0) + to - from);
  return sums;
}

/** Every request of a trace, outermost first, with ledgers. */
export interface TraceAccount {
  tree: TraceTree;
  innermost: Int32Array;
  requests: RequestAccount[];
  /** Request of each node index that is one. */
  byNode: Map<number, RequestAccount>;
}

/** How many spans and calls a node has, itself and all below it, by node. */
interface SubtreeCounts {
  spans: Int32Array;
  calls: Int32Array;
}

/** What a request does itself. */
interface OwnPart {
  nodes: number[];
  stretches: BookedStretch[];
  inner: Stretch[];
}

/**
 * Finds the requests of a trace and books their time. Each request is walked once; what it spends in requests inside it is added from theirs,
 * so that a chain of thousands of requests takes as long as as many side by side.
 * @throws TooEntangled for a trace made so that this does not hold.
 */
export function accountTrace(tree: TraceTree): TraceAccount {
  const innermost = innermostRequests(tree);
  const counts = countSubtrees(tree);
  const work = { left: Math.max(LEAST_STEPS, STEPS_PER_NODE * tree.nodes.length) };
  const sums = new RequestSums(tree, innermost, work);
  const byNode = new Map<number, RequestAccount>();
  // Inner requests before those around them.
  for (let i = tree.order.length - 1; i >= 0; i--) {
    const node = tree.order[i];
    if (innermost[node] !== node) continue;
    const whole = { node, from: tree.start[node], to: tree.end[node] };
    const own = ownPart(tree, innermost, whole, work);
    const sum = sums.add(node, own.stretches, own.inner);
    markUnseen(own.stretches, whole.to - whole.from);
    byNode.set(node, new RequestAccount(tree, node, own, ledgerOf(sum, whole.to - whole.from), counts));
  }
  const requests: RequestAccount[] = [];
  for (const node of tree.order) if (innermost[node] === node) requests.push(byNode.get(node)!);
  for (const request of requests) {
    if (isOutermost(tree, innermost, request.node, byNode)) shareOut(request, innermost, byNode);
  }
  return { tree, innermost, requests, byNode };
}

function countSubtrees({ nodes, order, parent }: TraceTree): SubtreeCounts {
  const spans = new Int32Array(nodes.length).fill(1);
  const calls = Int32Array.from(nodes, ({ call }) => (call ? 1 : 0));
  for (let i = order.length - 1; i >= 0; i--) {
    const up = parent[order[i]];
    if (up < 0) continue;
    spans[up] += spans[order[i]];
    calls[up] += calls[order[i]];
  }
  return { spans, calls };
}

/** Books a window of a request down to the requests inside it. */
function ownPart(tree: TraceTree, innermost: Int32Array, window: Stretch, work: Work): OwnPart {
  const request = window.node;
  const stretches: Stretch[] = [];
  const inner: Stretch[] = [];
  bookWindow(
    tree,
    window,
    (node) => innermost[node] !== request,
    work,
    (stretch) => (innermost[stretch.node] === request ? stretches : inner).push(stretch)
  );
  const parts: BookedStretch[] = [];
  for (let i = stretches.length - 1; i >= 0; i--) splitByAccount(tree, stretches[i], parts);
  return { nodes: ownSubtree(tree, innermost, request), stretches: parts, inner: inner.reverse() };
}

function ownSubtree(tree: TraceTree, innermost: Int32Array, request: number): number[] {
  const nodes = [request];
  for (let at = 0; at < nodes.length; at++)
    for (const child of tree.children[nodes[at]]) if (innermost[child] === request) nodes.push(child);
  return nodes;
}

/** @param durationNs of the request whose time the sum is: what is unseen depends on it. */
function ledgerOf({ byAccount, longest }: TimeSum, durationNs: number): Ledger {
  const ledger = emptyLedger();
  for (let i = 0; i < byAccount.length; i++) ledger[ACCOUNTS[i]] = byAccount[i];
  const unseenFrom = unseenLimit(durationNs);
  for (const length of longest) {
    if (length <= unseenFrom) break;
    ledger.ownCode -= length;
    ledger.unseen += length;
  }
  return ledger;
}

const unseenLimit = (durationNs: number): number => Math.max(UNSEEN_MIN_NS, UNSEEN_MIN_SHARE * durationNs);

/** Books what is unseen in a request of this duration as such. */
function markUnseen(stretches: readonly BookedStretch[], durationNs: number): void {
  const unseenFrom = unseenLimit(durationNs);
  for (const stretch of stretches)
    if (stretch.account === 'ownCode' && stretch.to - stretch.from > unseenFrom) stretch.account = 'unseen';
}

/** A request that no other waits for: none around it, or one that had ended before this began (work handed over). */
function isOutermost(
  tree: TraceTree,
  innermost: Int32Array,
  node: number,
  byNode: ReadonlyMap<number, RequestAccount>
): boolean {
  const up = tree.parent[node];
  const around = up < 0 ? -1 : innermost[up];
  return around < 0 || byNode.get(around)!.kind !== 'request' || tree.start[node] >= tree.end[around];
}

/** Each nanosecond goes to the request that is the innermost in it; requests within background work are counted by themselves. */
function shareOut(
  outer: RequestAccount,
  innermost: Int32Array,
  byNode: ReadonlyMap<number, RequestAccount>
): void {
  for (const { node, from, to, account } of outer.stretches) {
    const request = byNode.get(innermost[node]) ?? outer;
    if (request !== outer && outer.kind !== 'request') continue;
    request.exclusive[account] += to - from;
    request.exclusiveNs += to - from;
  }
}

/** Failed: the span says so, or it answered with a server error (RFC 9110, 15.6). */
export function isFailed({ status, attributes }: Pick<Span, 'status' | 'attributes'>): boolean {
  if (status === StatusCode.ERROR) return true;
  const code = numberOf(attributes, 'http.response.status_code', 'http.status_code');
  return code !== undefined && code >= 500;
}

/** The nodes of a subtree, parents before children. */
export function subtree({ children }: Pick<TreeLinks, 'children'>, root: number): number[] {
  const nodes = [root];
  for (let at = 0; at < nodes.length; at++) for (const child of children[nodes[at]]) nodes.push(child);
  return nodes;
}

/** @param nodes of a subtree, parents before children. @param booked each node's own part of the critical path. */
function bookedWithin(
  tree: TraceTree,
  nodes: readonly number[],
  booked: ReadonlyMap<number, number>
): Float64Array {
  const within = new Float64Array(tree.nodes.length);
  for (const [node, ns] of booked) within[node] = ns;
  for (let i = nodes.length - 1; i > 0; i--) within[tree.parent[nodes[i]]] += within[nodes[i]];
  return within;
}

function bookedInOwn(tree: TraceTree, request: RequestAccount): (node: number) => number {
  // A list where the request is a good part of the trace; thousands of small ones in one trace must not each have one of its length.
  const dense = request.ownNodes.length * DENSE >= tree.nodes.length;
  const within = dense ? new Float64Array(tree.nodes.length) : new Map<number, number>();
  const of = (node: number): number =>
    within instanceof Float64Array ? within[node] : (within.get(node) ?? 0);
  const add = (node: number, ns: number): void => {
    if (within instanceof Float64Array) within[node] += ns;
    else within.set(node, (within.get(node) ?? 0) + ns);
  };
  for (const { node, from, to } of request.ownStretches) add(node, to - from);
  for (const { node, from, to } of request.inner) add(tree.parent[node], to - from);
  for (let i = request.ownNodes.length - 1; i > 0; i--)
    add(tree.parent[request.ownNodes[i]], of(request.ownNodes[i]));
  return of;
}

const DENSE = 8;
