import { addBucket, bucketOf, emptySketch, type Sketch } from '../stats/sketch';
import type { Account } from '../trace/account';
import { isFailed, type RequestAccount, type TraceAccount } from '../trace/requests';
import { numberOf, type Attributes, type Span } from '../trace/span';
import type { TraceTree } from '../trace/tree';
import type { CallKind } from './call';
import { calleeOf } from './callee';
import { commonOrigin } from './origin';
import { outgoingSums, type OutgoingSums } from './outgoing';
import { retryChains } from './retries';
import { ranIntoLimit } from './round-limit';

/** Accounts that have the name of a kind of call. */
type CallAccount = CallKind & Account;
/**
 * What a part is: a kind of call, or the account of spans that are no calls. Spans of a call's account that are no call themselves (a query builder
 * around the driver, what carries a call) have a name of their own, so that they are not counted among the calls.
 */
export type PartKind = CallKind | Exclude<Account, CallAccount> | `${CallAccount}Span`;

const SPANS_OF: Record<CallAccount, PartKind> = {
  database: 'databaseSpan',
  cache: 'cacheSpan',
  messaging: 'messagingSpan',
  file: 'fileSpan'
};
const partKindOf = (account: Account): PartKind =>
  account in SPANS_OF ? SPANS_OF[account as CallAccount] : (account as Exclude<Account, CallAccount>);

/** Like work of one request taken together: a call group, or its own spans of one name. Nanoseconds. */
export interface RequestPart {
  kind: PartKind;
  /** A call's fingerprint, or the name of the spans. */
  name: string;
  verb: string;
  origin: string;
  /** The service that answers, where the trace has its spans; '' where it has none, or those of several. */
  callee: string;
  count: number;
  totalNs: number;
  /** The critical path's time in these spans, with everything the called side did. Parts of a request add up to its duration. */
  bookedNs: number;
  /** The part of it in these spans themselves. */
  ownNs: number;
  fastestNs: number;
  slowestNs: number;
  failed: number;
  /** Calls made again after the same one had failed. */
  retried: number;
  /** Calls that failed just after a round limit. */
  onRound: number;
  /** Sum of rows of the calls that say how many, and how many do. */
  rows: number;
  rowsKnown: number;
  bytesRead: number;
  bytesWritten: number;
  /** Of outgoing HTTP calls, by their status; none of others. */
  outgoing: OutgoingSums[];
  /** Durations over microseconds. */
  sketch: Sketch;
  nodes: number[];
}

/**
 * Splits one request into parts: each nanosecond of the critical path belongs to the nearest span, going up, for which
 * this request is the innermost, and so to that span's part. What another service did belongs to the call that asked it.
 * The booked times add up to the request's duration exactly.
 */
export function requestParts(trace: TraceAccount, request: RequestAccount): RequestPart[] {
  const { tree } = trace;
  const byKey = new Map<string, RequestPart>();
  const partOf = new Map<number, RequestPart>();
  for (const node of request.ownNodes) {
    const { kind, name, verb } = partNameOf(tree, node);
    const key = `${kind} ${name}`;
    let part = byKey.get(key);
    if (!part) byKey.set(key, (part = emptyPart(kind, name, verb)));
    addNode(part, tree, node);
    partOf.set(node, part);
  }
  for (const { node, from, to } of request.ownStretches) {
    const part = partOf.get(node)!;
    part.bookedNs += to - from;
    part.ownNs += to - from;
  }
  // What another request did belongs to the span that asked for it.
  for (const { node, from, to } of request.inner) partOf.get(tree.parent[node])!.bookedNs += to - from;
  for (const part of byKey.values()) {
    part.origin = commonOrigin(tree, part.nodes);
    if (part.nodes.some((node) => tree.nodes[node].call)) part.callee = calleeOf(tree, part.nodes);
    if (part.kind === 'http') part.outgoing = outgoingSums(tree, part.nodes);
    if (part.failed > 0 || part.count > 1)
      part.retried = retryChains(tree, part.nodes).reduce((sum, chain) => sum + chain.nodes.length - 1, 0);
  }
  return [...byKey.values()].sort((a, b) => b.bookedNs - a.bookedNs || (a.name < b.name ? -1 : 1));
}

/** The part that a span belongs to. */
export function partNameOf(tree: TraceTree, node: number): Pick<RequestPart, 'kind' | 'name' | 'verb'> {
  const { span, account, call } = tree.nodes[node];
  return {
    kind: call?.kind ?? partKindOf(account),
    name: call?.fingerprint ?? (span.name || '(no name)'),
    verb: call?.verb ?? ''
  };
}

function emptyPart(kind: PartKind, name: string, verb: string): RequestPart {
  return {
    kind,
    name,
    verb,
    origin: '',
    callee: '',
    count: 0,
    totalNs: 0,
    bookedNs: 0,
    ownNs: 0,
    fastestNs: Infinity,
    slowestNs: 0,
    failed: 0,
    retried: 0,
    onRound: 0,
    rows: 0,
    rowsKnown: 0,
    bytesRead: 0,
    bytesWritten: 0,
    outgoing: [],
    sketch: emptySketch(),
    nodes: []
  };
}

function addNode(part: RequestPart, tree: TraceTree, node: number): void {
  const { span, call } = tree.nodes[node];
  const took = tree.end[node] - tree.start[node];
  part.nodes.push(node);
  part.count++;
  part.totalNs += took;
  part.fastestNs = Math.min(part.fastestNs, took);
  part.slowestNs = Math.max(part.slowestNs, took);
  if (isFailed(span)) part.failed++;
  if (ranIntoLimit(tree, node)) part.onRound++;
  const rows = call?.rows ?? null;
  if (rows !== null) {
    part.rows += rows;
    part.rowsKnown++;
  }
  if (call) {
    const { read, written } = bytesOf(span);
    part.bytesRead += read;
    part.bytesWritten += written;
  }
  addBucket(part.sketch, bucketOf(took / 1000), 1);
}

/** Sizes beyond a pebibyte, or below nothing, are damage: such a number is not known. */
const MAX_SIZE = 2 ** 50;
function sizeOf(a: Attributes, ...names: string[]): number | undefined {
  const size = numberOf(a, ...names);
  return size !== undefined && size >= 0 && size <= MAX_SIZE ? size : undefined;
}

const WRITING = /write|append|put|save|copy/i;

/**
 * Bytes a call read and wrote, as its attributes say; 0 where they do not. `docs/formats.md` lists the names. Body sizes
 * are those of the OpenTelemetry semantic conventions for HTTP.
 */
export function bytesOf(span: Span): { read: number; written: number } {
  const a = span.attributes;
  if (a.size === 0) return { read: 0, written: 0 };
  const size = sizeOf(a, 'file.size') ?? 0;
  const writes = WRITING.test(span.call?.verb ?? span.name);
  return {
    read: sizeOf(a, 'file.bytes_read', 'http.response.body.size') ?? (writes ? 0 : size),
    written: sizeOf(a, 'file.bytes_written', 'http.request.body.size') ?? (writes ? size : 0)
  };
}
