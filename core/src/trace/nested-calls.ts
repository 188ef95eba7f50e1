import type { CallIdentity } from '../calls/call';
import { connectionStep } from '../calls/connection';
import { accountOf, type Account } from './account';
import { isEntry } from './endpoint';
import { SpanKind } from './span';
import type { TraceNode } from './trace-node';

/** Time of these kinds inside a call is time of that call: what carries it (name look-up, TCP, TLS, HTTP under a client of a database). */
const CARRIERS: ReadonlySet<Account> = new Set(['ownCode', 'file', 'remote']);
/** Calls of these kinds are asked of the same side: one around another is a wrapper. */
const STORES: ReadonlySet<CallIdentity['kind']> = new Set(['database', 'cache']);

/**
 * Settles what each span of a trace is, seen together with the spans around it in the same process:
 * what lies inside a call is that call's account, and no call by itself; a call around another of its kind (a query builder around the driver) is the
 * same call seen twice, and the inner one counts, with the origin of the outer where it has none.
 * @param order every node, parents before children. @param parent as reported.
 */
export function settleNestedCalls(nodes: TraceNode[], order: Int32Array, parent: Int32Array): void {
  /** For each node the innermost call of its process around it, itself included; −1 for none. */
  const around = new Int32Array(nodes.length).fill(-1);
  for (const at of order) {
    const node = nodes[at];
    const outer = outerOf(nodes, around, parent, at);
    node.account = node.missing ? 'unseen' : accountOf(node.span);
    node.call = node.missing ? null : node.span.call;
    const step = connectionStep(node.span);
    if (step !== null) node.call = null;
    if (outer >= 0 && step === null) settleInside(nodes[outer], node);
    around[at] = step === 'wait' || !isCall(node) ? outer : at;
  }
}

function outerOf(nodes: TraceNode[], around: Int32Array, parent: Int32Array, at: number): number {
  const up = parent[at];
  if (up < 0 || nodes[at].missing || isEntry(nodes[at].span)) return -1;
  return nodes[up].span.resource.key === nodes[at].span.resource.key ? around[up] : -1;
}

/** A span that stands for something another side does: what is inside belongs to it. */
const isCall = ({ span, account, missing }: TraceNode): boolean =>
  !missing &&
  !isEntry(span) &&
  (span.kind === SpanKind.CLIENT || span.kind === SpanKind.PRODUCER) &&
  account !== 'queue' &&
  account !== 'lock';

function settleInside(outer: TraceNode, inner: TraceNode): void {
  if (CARRIERS.has(inner.account)) inner.account = outer.account;
  if (!outer.call || !inner.call) return;
  const sameSide =
    outer.call.kind === inner.call.kind || (STORES.has(outer.call.kind) && STORES.has(inner.call.kind));
  if (!sameSide) {
    inner.call = null;
    return;
  }
  const { origin, rows, literals } = inner.call;
  inner.call = {
    ...inner.call,
    origin: origin || outer.call.origin,
    // A wrapper tells them of what it asked, however it was carried out.
    ...(inner.call.fingerprint === outer.call.fingerprint && {
      rows: rows ?? outer.call.rows,
      literals: literals ?? outer.call.literals
    })
  };
  outer.call = null;
}
