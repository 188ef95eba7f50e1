import { costs } from './over-many-words';
import { words } from '../text/words';
import { defineRule } from './define-rule';
import { groupBy } from '../group-by';
import { textOf } from '../trace/span';
import { formatDuration, formatShare } from '../text/format';
import { callEvidence, spanIdsOf, type CostInWords, type RuleContext, type Found } from './finding';
import { bookedBelow } from './loops';
import { isLocking } from './statement-shape';

/** Shorter waits are ordinary. */
export const LOCK_MIN_NS = 10e6;
/** Nor does a wait of less of the request make it slow. */
export const LOCK_MIN_SHARE = 0.1;

const REMEDY =
  'Find who holds it: a thread dump of this process at this moment shows the owner of a lock in it, the database’s list of locks that of a row. Hold it for less time: no calls and no slow work while it is held.';

/** The request waited for a lock: as its spans and events say, or in a statement that locks what it reads. */
export const waitsForLock = defineRule({
  rule: 'waits-for-lock',
  name: 'Waits for a lock',
  looksFor: 'Time in spans and events of a lock, and statements that lock what they read.',
  thresholds: [
    {
      name: 'cost',
      value: `at least ${formatDuration(LOCK_MIN_NS)} and ${formatShare(LOCK_MIN_SHARE)} of the request`,
      why: 'Shorter waits are ordinary.'
    }
  ],
  why: 'The request does nothing while something else holds what it needs.',
  doThis: [
    'Find the holder in a thread dump or in the database’s list of locks.',
    'Hold the lock for less time: no calls and no slow work while it is held.'
  ],
  overMany: (facts) => [...words`${[facts.endpoint]} waits for a lock.`, ...costs(facts)],
  seeAlso: 'threads',
  find: (context: RuleContext): Found[] => [...spansThatWait(context), ...lockingStatements(context)]
});

const isDear = ({ request }: RuleContext, costNs: number): boolean =>
  costNs >= LOCK_MIN_NS && costNs >= LOCK_MIN_SHARE * request.durationNs;

function spansThatWait(context: RuleContext): Found[] {
  const { trace, request } = context;
  const { tree } = trace;
  const waited = request.ownStretches.filter(({ account }) => account === 'lock');
  const lockOf = (node: number): string =>
    textOf(tree.nodes[node].span.attributes, 'lock.name') || tree.nodes[node].span.name;
  return [...groupBy(waited, ({ node }) => lockOf(node))].flatMap(([lock, stretches]) => {
    const costNs = stretches.reduce((sum, { from, to }) => sum + to - from, 0);
    if (!isDear(context, costNs)) return [];
    const byNode = groupBy(stretches, ({ node }) => node);
    const edit = new Map(
      [...byNode].map(([node, parts]) => {
        const ns = parts.reduce((sum, { from, to }) => sum + to - from, 0);
        return [node, Math.max(0, tree.end[node] - tree.start[node] - ns)];
      })
    );
    return [
      found(context, {
        nodes: [...byNode.keys()],
        subject: lock,
        costNs,
        edit,
        evidence: { traceId: tree.traceId, spanIds: spanIdsOf(trace, [...byNode.keys()]) },
        say: ({ time, share }) =>
          `The request waited ${time}, ${share} of its time, for the lock ${lock}. The trace does not show who held it.`
      })
    ];
  });
}

function lockingStatements(context: RuleContext): Found[] {
  const { trace, groups } = context;
  const { tree } = trace;
  return groups
    .filter((group) => group.kind === 'database' && isLocking(group))
    .flatMap((group) => {
      const costNs = bookedBelow(context, group.nodes);
      if (!isDear(context, costNs)) return [];
      return [
        found(context, {
          nodes: group.nodes,
          subject: group.fingerprint,
          costNs,
          edit: new Map(group.nodes.map((node) => [node, 0])),
          evidence: callEvidence(trace, group, group.nodes),
          say: ({ time, share }) =>
            `${group.fingerprint} takes ${time}, ${share} of this request${group.nodes.length > 1 ? `, the longest ${formatDuration(Math.max(...group.nodes.map((node) => tree.end[node] - tree.start[node])))}` : ''}. It locks what it reads, and so waits while another transaction holds the same rows; the trace does not show whether it waited or worked, nor what it waited for.`
        })
      ];
    });
}

interface Wait {
  nodes: readonly number[];
  subject: string;
  costNs: number;
  edit: ReadonlyMap<number, number>;
  evidence: Found['evidence'];
  say: (cost: CostInWords) => string;
}

function found(
  { request, replay }: RuleContext,
  { nodes, subject, costNs, edit, evidence, say }: Wait
): Found {
  const finding: Found = {
    title: 'Waits for a lock',
    remedy: REMEDY,
    figures: { waits: nodes.length, bookedNs: costNs, share: costNs / request.durationNs },
    evidence,
    saving: { lowNs: 0, highNs: Math.max(0, request.durationNs - replay.durationNs(edit)) },
    assumption: 'At best, the lock is always free.',
    costNs,
    subject,
    say: say
  };
  return { ...finding, edit };
}
