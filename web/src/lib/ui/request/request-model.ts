import { callName } from '@tromix/core/calls/call-name';
import { calleeOf } from '@tromix/core/calls/callee';
import { callGroups, type CallGroup } from '@tromix/core/calls/groups';
import { findBelow } from '@tromix/core/findings/request-findings';
import type { Finding } from '@tromix/core/findings/finding';
import { accountTrace, type RequestAccount, type TraceAccount } from '@tromix/core/trace/requests';
import type { Resource, Span } from '@tromix/core/trace/span';
import { formatCount } from '@tromix/core/text/format';
import {
  timelineRows,
  type FoldState,
  type Timeline as TimelineRows,
  type TimelineRow
} from '@tromix/core/trace/rows';
import { buildTree, type TraceTree } from '@tromix/core/trace/tree';
import type { CoveringProfile, RequestPage } from '$lib/server/queries/request-page';
import { spansFrom, type StoredSpans } from '$lib/stored-spans';
import { shortStatement } from '$lib/ui/calls/short-statement';

/** All that is shown of one request, computed in the browser from its stored spans. */
export interface RequestModel {
  trace: TraceAccount;
  request: RequestAccount;
  root: number;
  readonly groups: CallGroup[];
  /** The request's subtree. */
  nodes: readonly number[];
  /** Its rows with all its spans unfolded, like calls in combs. */
  whole: TimelineRows;
  /** The calls of each comb, by the comb's key. */
  combs: Map<string, number[]>;
  byId: Map<string, number>;
  /** Nanoseconds the whole request was shifted against its sender's clock. */
  startUs: number;
}

export function modelOf(page: RequestPage): RequestModel {
  const resources = new Map(
    page.resources.map(([id, resource]): [number, Resource] => [id, { ...resource, attributes: new Map() }])
  );
  const spans = spansFrom(JSON.parse(new TextDecoder().decode(page.spans)) as StoredSpans, resources);
  const trace = accountTrace(buildTree(spans));
  const { tree } = trace;
  const byId = new Map(tree.nodes.map((node, i) => [node.span.spanId, i]));
  const request = trace.byNode.get(byId.get(page.spanId) ?? tree.roots[0]) ?? trace.requests[0];
  const root = request.node;
  const whole = timelineRows(tree, root, NOTHING_FOLDED);
  let groups: CallGroup[] | undefined;
  return {
    trace,
    request,
    root,
    /** Worked out when it is first asked for: a picture is drawn without. */
    get groups() {
      return (groups ??= callGroups(tree, request));
    },
    nodes: request.nodes,
    whole,
    combs: new Map(
      whole.rows.filter(({ kind }) => kind === 'comb').map(({ key, members }) => [key, members])
    ),
    byId,
    startUs: tree.baseUs + tree.start[root] / 1000
  };
}

const NOTHING_FOLDED: FoldState = { openCombs: new Set(), closedSpans: new Set(), foldShort: true };

/** What the rules find in the request: for thousands of spans a matter of a tenth of a second, so it is asked for by itself. */
export const findingsOf = (model: RequestModel): Finding[] => findBelow(model.trace, model.request);

/** When the last of its spans ends, on the tree's axis: work that outlives the request is drawn too. */
export const latestEnd = ({ nodes, trace: { tree }, root }: RequestModel): number =>
  nodes.reduce((latest, node) => Math.max(latest, tree.end[node]), tree.end[root]);

/** What a row is called: the call's fingerprint, or the span's name. */
export function labelOf(span: Span): string {
  return span.call?.fingerprint ?? span.name;
}

/** What a row of the timeline is called; a comb of short spans of several names by their number. */
export const rowLabel = (tree: TraceTree, row: Pick<TimelineRow, 'node' | 'members'>): string => {
  const names = new Set(row.members.map((node) => nodeLabel(tree, node)));
  return names.size > 1
    ? `${formatCount(row.members.length)} short spans: ${[...names].join(', ')}`
    : nodeLabel(tree, row.node);
};

/** What a span is called where its trace is known: a call by the service that answers it. */
function nodeLabel(tree: TraceTree, node: number): string {
  const { span } = tree.nodes[node];
  return span.call ? callName({ ...span.call, callee: calleeOf(tree, [node]) }) : labelOf(span);
}

/** A label for a narrow place. */
export const shortLabelOf = (span: Span): string => shortStatement(labelOf(span));

/** A profile of a stretch's process and time, and the part of it that covers the stretch, nanoseconds from the profile's start. */
export interface CoveredStretch {
  profile: CoveringProfile;
  fromNs: number;
  toNs: number;
}

/** Finds a profile that covers a stretch of a span's process. Times are on the tree's axis. */
export function coveringProfile(
  model: RequestModel,
  node: number,
  from: number,
  to: number,
  profiles: readonly CoveringProfile[]
): CoveredStretch | null {
  const { tree } = model.trace;
  const { resource } = tree.nodes[node].span;
  // The tree's axis is shifted for skew; the profile runs on the process's own clock.
  const beginUs = tree.baseUs + (from - tree.shift[node]) / 1000;
  const endUs = tree.baseUs + (to - tree.shift[node]) / 1000;
  for (const profile of profiles) {
    if (profile.service !== resource.service || profile.pid !== resource.pid) continue;
    if (profile.host && profile.host !== resource.host) continue;
    const fromNs = (beginUs - profile.startedAtUs) * 1000;
    const toNs = (endUs - profile.startedAtUs) * 1000;
    if (toNs <= 0 || fromNs >= profile.durationNs) continue;
    return { profile, fromNs: Math.max(0, fromNs), toNs: Math.min(profile.durationNs, toNs) };
  }
  return null;
}
