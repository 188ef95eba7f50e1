import { ownCallGroups } from '../calls/groups';
import { requestParts, type RequestPart } from '../calls/parts';
import type { RequestAccount, TraceAccount } from '../trace/requests';
import { Replay } from '../trace/replay';
import { findBy } from './define-rule';
import { reported, reportedOutside, type Found, type RuleContext } from './finding';
import { findLoops } from './loops';
import { IN_A_REQUEST, type RequestFinding } from './request-rules';

const NO_EDIT: ReadonlyMap<number, number> = new Map();

/** The findings of one request about its own work, costliest first. @param parts what the request is made of, by `requestParts` */
export const findInRequest = (
  trace: TraceAccount,
  request: RequestAccount,
  parts: readonly RequestPart[] = requestParts(trace, request)
): RequestFinding[] =>
  foundIn(trace, request, parts)
    .map((found) => reported(found, request.durationNs))
    .sort(byCost);

type Named = Found & { rule: RequestFinding['rule'] };

function foundIn(trace: TraceAccount, request: RequestAccount, parts: readonly RequestPart[]): Named[] {
  const { tree } = trace;
  const said = new Set<string>();
  const context: RuleContext = {
    trace,
    request,
    nodes: request.ownNodes,
    groups: ownCallGroups(tree, parts),
    loops: [],
    replay: new Replay(tree, request.node, () => withInnerEntries(trace, request)),
    bookedWithin: (node) => request.ownWithin(node),
    once: (remark) => (said.has(remark) ? '' : (said.add(remark), remark))
  };
  context.loops = findLoops(context);
  // What the request does not wait for (work that goes on after its answer) costs it nothing.
  return findBy<RequestFinding['rule'], RuleContext, Found>(IN_A_REQUEST, context).filter(
    ({ costNs }) => costNs > 0
  );
}

/** Own nodes, and the entries of the requests inside: no edit reaches into those, so each is replayed as one. */
function withInnerEntries(
  { tree, innermost }: TraceAccount,
  { node: request, ownNodes }: RequestAccount
): number[] {
  const nodes = [...ownNodes];
  for (const node of ownNodes)
    for (const child of tree.children[node]) if (innermost[child] !== request) nodes.push(child);
  return nodes;
}

/**
 * The findings of a request and of the requests below it, costliest first. What a finding of an inner request costs, and what its remedy
 * saves, is stated for this one: work it does not wait for costs it nothing.
 */
export function findBelow(trace: TraceAccount, request: RequestAccount): RequestFinding[] {
  const { tree } = trace;
  const { durationNs } = request;
  const inside = new Set(request.nodes);
  const replay = new Replay(tree, request.node, () => request.nodes);
  const outside = (inner: RequestAccount, found: Named): RequestFinding => {
    const costNs = Math.min(found.costNs, request.within[inner.node]);
    const most = Math.max(0, durationNs - replay.durationNs(found.edit ?? NO_EDIT));
    const saving = found.saving && {
      lowNs: Math.min(found.saving.lowNs, most),
      highNs: Math.min(found.saving.highNs, most)
    };
    return reportedOutside(found, { costNs, saving, durationNs });
  };
  return trace.requests
    .filter(({ node }) => inside.has(node))
    .flatMap((inner) =>
      foundIn(trace, inner, requestParts(trace, inner)).map((found) =>
        inner === request ? reported(found, durationNs) : outside(inner, found)
      )
    )
    .sort(byCost);
}

function byCost(a: RequestFinding, b: RequestFinding): number {
  return b.costNs - a.costNs || (a.rule < b.rule ? -1 : 1);
}
