import { heaviestSpans, type TimelineRow } from '@tromix/core/trace/rows';
import type { RequestModel } from './request-model';

/** A request with more rows than this opens along its heaviest branch, the rest folded. */
export const OPEN_WHOLE_ROWS = 60;

/** The spans to close so that only the heaviest branch, and what stands beside it, is open. */
export function closedBesideHeaviest(model: RequestModel): Set<string> {
  const { tree } = model.trace;
  const sums = model.request.within;
  const branch = new Set(heaviestSpans(tree, model.root, (node) => sums[node]));
  return new Set(
    model.nodes
      .filter((node) => tree.reported.children[node].length > 0 && !branch.has(node))
      .map((node) => tree.nodes[node].span.spanId)
  );
}

/** The spans to close so that only the request's own row stays. */
export const closedAll = (model: RequestModel): Set<string> =>
  new Set(
    model.nodes
      .filter((node) => model.trace.tree.reported.children[node].length > 0 && node !== model.root)
      .map((node) => model.trace.tree.nodes[node].span.spanId)
  );

export const combsOf = (rows: readonly TimelineRow[]): string[] =>
  rows.filter(({ kind }) => kind === 'comb').map(({ key }) => key);
