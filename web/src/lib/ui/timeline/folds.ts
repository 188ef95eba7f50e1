import { heaviestSpans, type TimelineRow } from '@tromix/core/trace/rows';
import { subtree } from '@tromix/core/trace/requests';
import type { RequestModel } from './request-model';

/** A request with more rows than this opens along its heaviest branch, the rest folded. */
export const OPEN_WHOLE_ROWS = 60;

/** Booked time of each node with everything below it. */
export function bookedWithBelow(model: RequestModel): Map<number, number> {
  const { tree } = model.trace;
  const sums = new Map<number, number>();
  const order = subtree(tree, model.root);
  for (let i = order.length - 1; i >= 0; i--) {
    const node = order[i];
    let sum = model.request.booked.get(node) ?? 0;
    for (const child of tree.children[node]) sum += sums.get(child) ?? 0;
    sums.set(node, sum);
  }
  return sums;
}

/** The spans to close so that only the heaviest branch, and what stands beside it, is open. */
export function closedBesideHeaviest(model: RequestModel): Set<string> {
  const { tree } = model.trace;
  const sums = bookedWithBelow(model);
  const branch = new Set(heaviestSpans(tree, model.root, (node) => sums.get(node) ?? 0));
  return new Set(
    model.nodes
      .filter((node) => tree.children[node].length > 0 && !branch.has(node))
      .map((node) => tree.nodes[node].span.spanId)
  );
}

/** The spans to close so that only the request's own row stays. */
export const closedAll = (model: RequestModel): Set<string> =>
  new Set(
    model.nodes
      .filter((node) => model.trace.tree.children[node].length > 0 && node !== model.root)
      .map((node) => model.trace.tree.nodes[node].span.spanId)
  );

export const combsOf = (rows: readonly TimelineRow[]): string[] =>
  rows.filter(({ kind }) => kind === 'comb').map(({ key }) => key);
