import { ownCallGroups } from '../calls/groups';
import type { RequestAccount, TraceAccount } from '../trace/requests';
import { Replay } from '../trace/replay';
import { bookedInOwn, bookedWithin, subtree } from '../trace/requests';
import { blindStretch } from './blind-stretch';
import { chattyCache, chattyMessaging, chattyRemote } from './chatty';
import { couldRunTogether } from './could-run-together';
import { failedButWaited } from './failed-but-waited';
import { editOf, retold, withEdit, type Finding, type FindingRule, type RuleContext } from './finding';
import { findLoops } from './loops';
import { oneSlowCall } from './one-slow-call';
import { queryPerRow, rowByRowWrites } from './query-per-row';
import { retryStorm } from './retry-storm';
import { roundTimeout } from './round-timeout';
import { sameCallAgain } from './same-call-again';
import { tooManyRows } from './too-many-rows';
import { waitsForConnection } from './waits-for-connection';
import { waitsForLock } from './waits-for-lock';

const NO_EDIT: ReadonlyMap<number, number> = new Map();

const RULES: FindingRule[] = [
  queryPerRow,
  rowByRowWrites,
  sameCallAgain,
  chattyRemote,
  chattyCache,
  chattyMessaging,
  waitsForConnection,
  waitsForLock,
  oneSlowCall,
  couldRunTogether,
  tooManyRows,
  roundTimeout,
  retryStorm,
  failedButWaited,
  blindStretch
];

/** The findings of one request about its own work, costliest first. */
export function findInRequest(trace: TraceAccount, request: RequestAccount): Finding[] {
  const { tree } = trace;
  let within: ((node: number) => number) | undefined;
  const said = new Set<string>();
  const context: RuleContext = {
    trace,
    request,
    nodes: request.ownNodes,
    groups: ownCallGroups(tree, request),
    loops: [],
    replay: new Replay(tree, request.node, () => withInnerEntries(trace, request)),
    // Worked out for the first rule that asks: most requests have none.
    bookedWithin: (node) => (within ??= bookedInOwn(tree, request))(node),
    once: (remark) => (said.has(remark) ? '' : (said.add(remark), remark))
  };
  context.loops = findLoops(context);
  // What the request does not wait for (work that goes on after its answer) costs it nothing.
  return RULES.flatMap((rule) => rule(context))
    .filter(({ costNs }) => costNs > 0)
    .sort(byCost);
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
 * saves, is told of this one: work it does not wait for costs it nothing.
 */
export function findBelow(trace: TraceAccount, request: RequestAccount): Finding[] {
  const { tree } = trace;
  const inside = new Set(subtree(tree, request.node));
  const booked = bookedWithin(tree, request.node, request.booked);
  const replay = new Replay(tree, request.node);
  const found: Finding[] = [];
  for (const inner of trace.requests) {
    if (!inside.has(inner.node)) continue;
    for (const finding of findInRequest(trace, inner)) {
      const edit = editOf(finding) ?? NO_EDIT;
      const costNs = Math.min(finding.costNs, booked[inner.node]);
      const most = Math.max(0, request.durationNs - replay.durationNs(edit));
      const saving = finding.saving && {
        lowNs: Math.min(finding.saving.lowNs, most),
        highNs: Math.min(finding.saving.highNs, most)
      };
      const { durationNs } = request;
      const told = inner === request ? finding : retold(finding, { costNs, saving, durationNs });
      found.push(inner === request ? finding : withEdit(told, edit));
    }
  }
  return found.sort(byCost);
}

function byCost(a: Finding, b: Finding): number {
  return b.costNs - a.costNs || (a.rule < b.rule ? -1 : 1);
}
