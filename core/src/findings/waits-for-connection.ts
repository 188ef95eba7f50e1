import { connectionStep, poolSizeOf } from '../calls/connection';
import { formatCount, plural } from '../text/format';
import { spanIdsOf, withEdit, worded, type FindingRule } from './finding';

/** Shorter waits are ordinary. */
export const CONNECTION_MIN_NS = 10e6;
/** Nor does a wait of less of the request make it slow. */
export const CONNECTION_MIN_SHARE = 0.1;

/** The request waited for a free connection of a pool. Opening a new one is not counted: that is a remote call. */
export const waitsForConnection: FindingRule = (context) => {
  const { trace, request, nodes, replay } = context;
  const { tree } = trace;
  const waits = nodes.filter((node) => connectionStep(tree.nodes[node].span) === 'wait');
  const waited = new Map(waits.map((node) => [node, request.ownBooked.get(node) ?? 0]));
  const costNs = [...waited.values()].reduce((sum, ns) => sum + ns, 0);
  if (costNs < CONNECTION_MIN_NS || costNs < CONNECTION_MIN_SHARE * request.durationNs) return [];
  const names = [...new Set(waits.map((node) => tree.nodes[node].span.name))];
  const size = waits.map((node) => poolSizeOf(tree.nodes[node].span)).find((one) => one !== null) ?? null;
  const holds =
    size === null
      ? ' How many connections the pool may hold was not recorded.'
      : ` The pool holds at most ${plural(size, 'connection')}.`;
  const edit = new Map(
    [...waited].map(([node, ns]) => [node, Math.max(0, tree.end[node] - tree.start[node] - ns)])
  );
  const finding = worded(
    {
      rule: 'waits-for-connection',
      title: 'Waits for a connection',
      remedy:
        'Find who keeps the connections: give each back before other slow work, and keep transactions short. Only then make the pool larger, as far as the database bears it.',
      figures: { waits: waits.length, poolSize: size, bookedNs: costNs, share: costNs / request.durationNs },
      evidence: { traceId: tree.traceId, spanIds: spanIdsOf(trace, waits) },
      saving: { lowNs: 0, highNs: Math.max(0, request.durationNs - replay.durationNs(edit)) },
      assumption: 'At the most a connection is free at once.',
      costNs,
      subject: names.join(', ')
    },
    request.durationNs,
    ({ time, share }) =>
      `The request waited ${time}, ${share} of its time, for a free connection${waits.length > 1 ? `, ${formatCount(waits.length)} times` : ''} (${names.join(', ')}).${holds}`
  );
  return [withEdit(finding, edit)];
};
