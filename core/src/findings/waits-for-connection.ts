import { costs } from './over-many-words';
import { words } from '../text/words';
import { defineRule } from './define-rule';
import { connectionStep, poolSizeOf } from '../calls/connection';
import { formatCount, formatDuration, formatShare, plural } from '../text/format';
import { spanIdsOf, type Found, type RuleContext } from './finding';

/** Shorter waits are ordinary. */
export const CONNECTION_MIN_NS = 10e6;
/** Nor does a wait of less of the request make it slow. */
export const CONNECTION_MIN_SHARE = 0.1;

/** The request waited for a free connection of a pool. Opening a new one is not counted: that is a remote call. */
export const waitsForConnection = defineRule({
  rule: 'waits-for-connection',
  name: 'Waits for a connection',
  looksFor:
    'Time in spans of a connection pool, without opening new connections; with the size of the pool where it was recorded.',
  thresholds: [
    {
      name: 'cost',
      value: `at least ${formatDuration(CONNECTION_MIN_NS)} and ${formatShare(CONNECTION_MIN_SHARE)} of the request`,
      why: 'Shorter waits are ordinary.'
    }
  ],
  why: 'The database is not slow: something holds the connections.',
  doThis: [
    'Release connections before other slow work; keep transactions short.',
    'Remove the slow queries that hold connections; enlarge the pool only if the database can take more at once.'
  ],
  overMany: (facts) => [...words`${[facts.endpoint]} waits for a free connection.`, ...costs(facts)],
  find: (context: RuleContext): Found[] => {
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
    const finding: Found = {
      title: 'Waits for a connection',
      remedy:
        'Find what holds the connections: release each before other slow work, and keep transactions short. Only then enlarge the pool, as far as the database can take it.',
      figures: { waits: waits.length, poolSize: size, bookedNs: costNs, share: costNs / request.durationNs },
      evidence: { traceId: tree.traceId, spanIds: spanIdsOf(trace, waits) },
      saving: { lowNs: 0, highNs: Math.max(0, request.durationNs - replay.durationNs(edit)) },
      assumption: 'At best, a connection is free at once.',
      costNs,
      subject: names.join(', '),
      say: ({ time, share }) =>
        `The request waited ${time}, ${share} of its time, for a free connection${waits.length > 1 ? `, ${formatCount(waits.length)} times` : ''} (${names.join(', ')}).${holds}`
    };
    return [{ ...finding, edit }];
  }
});
