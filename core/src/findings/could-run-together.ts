import { costs } from './over-many-words';
import { words } from '../text/words';
import { defineRule } from './define-rule';
import { hash53 } from '../calls/hash';
import { greatestOf, leastOf } from '../stats/extremes';
import { cutText } from '../text/well-formed';
import { formatDuration, formatShare } from '../text/format';
import type { TraceTree } from '../trace/tree';
import { spanIdsOf, type RuleContext, type Found } from './finding';
import { bookedBelow } from './loops';
import { isLocking, isWrite } from './statement-shape';

/** Shorter calls gain less by running together than the change costs to understand. */
export const TOGETHER_MIN_CALL_NS = 5e6;
/** Between calls that need each other's answer there is work; a gap beyond this hints at it. Common practice. */
export const TOGETHER_MAX_GAP_NS = 2e6;
/** What running together could save must be worth a sentence. */
export const TOGETHER_MIN_SHARE = 0.1;

/**
 * Different calls under one parent, each begun right after the one before had ended: they could run side by side, unless one
 * needs the other's answer, which a trace does not show. Writes are left out: their order may matter.
 */
export const couldRunTogether = defineRule({
  rule: 'could-run-together',
  name: 'Could run in parallel',
  looksFor:
    'Different reads under one parent, each started right after the previous one ended. A trace does not show whether one needs the other’s answer; you have to decide.',
  thresholds: [
    {
      name: 'gap',
      value: `at most ${formatDuration(TOGETHER_MAX_GAP_NS)} between two calls`,
      why: 'Work in between suggests that the answer was used. Common practice.'
    },
    {
      name: 'length',
      value: `each at least ${formatDuration(TOGETHER_MIN_CALL_NS)}, together worth ${formatShare(TOGETHER_MIN_SHARE)} of the request`,
      why: 'Shorter calls gain too little to justify the change.'
    }
  ],
  why: 'The request takes their sum where it could take only the longest.',
  doThis: [
    'If no call needs the answer of another, start them together and wait for all.',
    'Check whether all of them are needed here.'
  ],
  overMany: (facts) => [
    ...words`${[facts.endpoint]} makes independent calls one after another.`,
    ...costs(facts, 'Waiting for them in turn costs')
  ],
  find: (context: RuleContext): Found[] => {
    const { trace, request } = context;
    const { tree } = trace;
    return runsOf(context)
      .map((nodes): Found => {
        const lengths = nodes.map((node) => tree.end[node] - tree.start[node]);
        const longest = greatestOf(lengths);
        const shortest = leastOf(lengths);
        const saved = (edit: ReadonlyMap<number, number>): number =>
          Math.max(0, request.durationNs - context.replay.durationNs(edit));
        const besideLongest = new Map(
          nodes.filter((_, i) => i !== lengths.indexOf(longest)).map((node) => [node, 0])
        );
        const lowNs = saved(new Map([[nodes[lengths.indexOf(shortest)], 0]]));
        const highNs = Math.max(lowNs, saved(besideLongest));
        const costNs = Math.max(0, bookedBelow(context, nodes) - longest);
        const names = nodes.map((node) => labelOf(tree, node));
        const shown = names.slice(0, MAX_NAMES).map((name) => shortened(name, MAX_NAME));
        const more = names.length > MAX_NAMES ? ` and ${names.length - MAX_NAMES} more` : '';
        const finding: Found = {
          title: 'Could run in parallel',
          remedy: 'If no call needs another’s answer, start them together and wait for all.',
          figures: {
            calls: nodes.length,
            totalNs: lengths.reduce((sum, took) => sum + took, 0),
            slowestNs: longest,
            share: costNs / Math.max(1, request.durationNs)
          },
          evidence: { traceId: tree.traceId, spanIds: spanIdsOf(trace, nodes) },
          saving: { lowNs, highNs },
          assumption:
            'At least, the shortest runs in parallel with another; at best, all run in parallel with the longest and none slows another down.',
          costNs,
          subject: shortened(names.toSorted().join(' + '), MAX_SUBJECT),
          say: () =>
            `${nodes.length} different calls ran one after another without work in between: ${shown.join('; ')}${more}. Together they took ${formatDuration(lengths.reduce((sum, took) => sum + took, 0))}, the longest alone ${formatDuration(longest)}. The trace does not show whether one needs the other’s answer.`
        };
        return { ...finding, edit: besideLongest };
      })
      .filter(({ costNs }) => costNs >= TOGETHER_MIN_SHARE * request.durationNs);
  }
});

/** Calls named in the sentence, and characters of each; the rest is counted. */
const MAX_NAMES = 8;
const MAX_NAME = 300;
/** A subject becomes a row of its own: its beginning and a hash of all of it tell it from others. */
const MAX_SUBJECT = 2000;

const shortened = (text: string, most: number): string =>
  text.length <= most ? text : `${cutText(text, most)}… ${hash53(text, 0).toString(36)}`;

const labelOf = (tree: TraceTree, node: number): string =>
  tree.nodes[node].call?.fingerprint ?? tree.nodes[node].span.name;

/** Runs of calls of different groups, two or more each; short ones in between neither belong to a run nor end it. */
function runsOf({ trace, nodes }: RuleContext): number[][] {
  const { tree } = trace;
  const own = new Set(nodes);
  const runs: number[][] = [];
  for (const parent of nodes) {
    let run: number[] = [];
    /** When the last of the run, or what followed it, was over. */
    let over = 0;
    const labels = new Set<string>();
    const close = (): void => {
      if (run.length >= 2) runs.push(run);
      run = [];
      labels.clear();
    };
    for (const child of tree.children[parent]) {
      if (!own.has(child)) continue;
      const gap = run.length === 0 ? 0 : tree.start[child] - over;
      const apart = gap < -TOGETHER_MAX_GAP_NS || gap > TOGETHER_MAX_GAP_NS;
      const short = isShortRead(tree, child);
      const alike = labels.has(labelOf(tree, child));
      if (apart || (!short && (alike || !eligible(tree, child)))) close();
      over = Math.max(run.length === 0 ? 0 : over, tree.end[child]);
      if (short || alike || !eligible(tree, child)) continue;
      run.push(child);
      labels.add(labelOf(tree, child));
    }
    close();
  }
  return runs;
}

/** Too short to be worth running beside others, and changes nothing. */
const isShortRead = (tree: TraceTree, node: number): boolean =>
  tree.end[node] - tree.start[node] < TOGETHER_MIN_CALL_NS && !changes(tree, node);

function changes(tree: TraceTree, node: number): boolean {
  const { call } = tree.nodes[node];
  if (!call) return false;
  if (call.kind === 'http') return !SAFE_METHODS.has(call.verb);
  return call.kind === 'messaging' || isWrite(call) || isLocking(call);
}

const ASKING = new Set(['database', 'http', 'rpc', 'cache', 'file']);
const SAFE_METHODS = new Set(['GET', 'HEAD', 'OPTIONS']);

function eligible(tree: TraceTree, node: number): boolean {
  const { call } = tree.nodes[node];
  if (!call || !ASKING.has(call.kind) || tree.end[node] - tree.start[node] < TOGETHER_MIN_CALL_NS)
    return false;
  return !changes(tree, node);
}
