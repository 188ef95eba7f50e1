import { emptyLedger, type Ledger } from './account';
import { book } from './booking';
import { endpointOf } from './endpoint';
import { numberOf, StatusCode, type Span } from './span';
import { splitByEvents, type BookedStretch } from './timed-events';
import { innermostRequests, isRequest, type TraceTree } from './tree';

/** Own-code stretches longer than both are booked as unseen where nothing was recorded inside. */
export const UNSEEN_MIN_NS = 50e6;
export const UNSEEN_MIN_SHARE = 0.1;

/** One request of a trace with its account of time. Nanoseconds throughout. */
export interface RequestAccount {
  node: number;
  endpoint: string;
  failed: boolean;
  durationNs: number;
  /** The critical path in time order; tiles the request exactly. */
  stretches: BookedStretch[];
  /** Each node's own part of the critical path; nodes without one are left out. */
  booked: Map<number, number>;
  /** Adds up to `durationNs`. */
  ledger: Ledger;
  /** The part of the outermost request's wall time in which this request is the innermost: sums over requests count once. */
  exclusive: Ledger;
  exclusiveNs: number;
}

/** Every request of a trace, outermost first, with ledgers. */
export interface TraceAccount {
  tree: TraceTree;
  innermost: Int32Array;
  requests: RequestAccount[];
  /** Request of each node index that is one. */
  byNode: Map<number, RequestAccount>;
}

/** Finds the requests of a trace and books their time. */
export function accountTrace(tree: TraceTree): TraceAccount {
  const innermost = innermostRequests(tree);
  const requests: RequestAccount[] = [];
  const byNode = new Map<number, RequestAccount>();
  for (const node of tree.order) {
    if (!isRequest(tree, node)) continue;
    const request = accountRequest(tree, node);
    requests.push(request);
    byNode.set(node, request);
  }
  for (const request of requests) {
    if (isOutermost(tree, innermost, request.node)) shareOut(request, innermost, byNode);
  }
  return { tree, innermost, requests, byNode };
}

/** Books one request of a tree. */
export function accountRequest(tree: TraceTree, node: number): RequestAccount {
  const { span } = tree.nodes[node];
  const durationNs = tree.end[node] - tree.start[node];
  const stretches = bookWithAccounts(tree, node, durationNs);
  const ledger = emptyLedger();
  const booked = new Map<number, number>();
  for (const { node: owner, account, from, to } of stretches) {
    ledger[account] += to - from;
    booked.set(owner, (booked.get(owner) ?? 0) + to - from);
  }
  const endpoint = tree.nodes[node].missing ? span.name : endpointOf(span);
  const failed = isFailed(span);
  return {
    node,
    endpoint,
    failed,
    durationNs,
    stretches,
    booked,
    ledger,
    exclusive: emptyLedger(),
    exclusiveNs: 0
  };
}

function bookWithAccounts(tree: TraceTree, node: number, durationNs: number): BookedStretch[] {
  const unseenFrom = Math.max(UNSEEN_MIN_NS, UNSEEN_MIN_SHARE * durationNs);
  const stretches: BookedStretch[] = [];
  for (const stretch of book(tree, node)) {
    const { account, span } = tree.nodes[stretch.node];
    const { node: owner, from, to } = stretch;
    const first = stretches.length;
    if (account !== 'ownCode' || span.events.length === 0) stretches.push({ node: owner, from, to, account });
    else stretches.push(...splitByEvents(stretch, span, tree.start[owner]));
    for (let i = first; i < stretches.length; i++) {
      const part = stretches[i];
      if (part.account === 'ownCode' && part.to - part.from > unseenFrom) part.account = 'unseen';
    }
  }
  return stretches;
}

/** A request nobody waits for: no request around it, or one that had ended before this began (work handed over). */
function isOutermost(tree: TraceTree, innermost: Int32Array, node: number): boolean {
  const up = tree.parent[node];
  const around = up < 0 ? -1 : innermost[up];
  return around < 0 || tree.start[node] >= tree.end[around];
}

function shareOut(outer: RequestAccount, innermost: Int32Array, byNode: Map<number, RequestAccount>): void {
  for (const { node, from, to, account } of outer.stretches) {
    const request = byNode.get(innermost[node]) ?? outer;
    request.exclusive[account] += to - from;
    request.exclusiveNs += to - from;
  }
}

/** Failed: the span says so, or it answered with a server error (RFC 9110, 15.6). */
export function isFailed(span: Span): boolean {
  if (span.status === StatusCode.ERROR) return true;
  const code = numberOf(span.attributes, 'http.response.status_code', 'http.status_code');
  return code !== undefined && code >= 500;
}

/** The nodes of a subtree, parents before children. */
export function subtree(tree: TraceTree, root: number): number[] {
  const nodes = [root];
  for (let at = 0; at < nodes.length; at++) for (const child of tree.children[nodes[at]]) nodes.push(child);
  return nodes;
}

/**
 * The critical path's time inside each node and everything below it, by node, nanoseconds.
 * @param booked each node's own part of it.
 */
export function bookedWithin(
  tree: TraceTree,
  root: number,
  booked: ReadonlyMap<number, number>
): Float64Array {
  const within = new Float64Array(tree.nodes.length);
  for (const [node, ns] of booked) within[node] = ns;
  const nodes = subtree(tree, root);
  for (let i = nodes.length - 1; i > 0; i--) within[tree.parent[nodes[i]]] += within[nodes[i]];
  return within;
}
