import { groupBy } from '../group-by';
import { CLOCK_STEP_NS } from '../trace/clock-step';
import { isFailed } from '../trace/requests';
import { numberOf } from '../trace/span';
import type { TraceTree } from '../trace/tree';

/** Attempts at one and the same call under one parent, each begun after the one before had ended and failed. */
export interface RetryChain {
  nodes: number[];
  /** True where the last attempt failed too. */
  gaveUp: boolean;
}

/**
 * Finds chains of retries among like calls: the same literals asked again after a failure, under one parent; and calls
 * that say themselves that they are a resend (`http.request.resend_count`, OpenTelemetry semantic conventions for HTTP).
 * Calls whose literals were not recorded are no retries unless they say so.
 * @param nodes calls of one group.
 */
export function retryChains(tree: TraceTree, nodes: readonly number[]): RetryChain[] {
  // Most groups have neither failures nor resends.
  if (!nodes.some((node) => failed(tree, node) || isResend(tree, node))) return [];
  const chains: RetryChain[] = [];
  for (const same of groupBy(nodes, (node) => `${tree.parent[node]} ${literalsOf(tree, node)}`).values()) {
    same.sort((a, b) => tree.start[a] - tree.start[b]);
    let chain: number[] = [];
    const close = (): void => {
      if (chain.length > 1) chains.push({ nodes: chain, gaveUp: failed(tree, chain[chain.length - 1]) });
      chain = [];
    };
    for (const node of same) {
      if (chain.length > 0 && !follows(tree, chain[chain.length - 1], node)) close();
      chain.push(node);
    }
    close();
  }
  return chains;
}

/** Whether a call is another attempt at the one before it, which has the same literals, as far as they are known. */
function follows(tree: TraceTree, last: number, node: number): boolean {
  if (tree.start[node] < tree.end[last] - CLOCK_STEP_NS) return false;
  return isResend(tree, node) || (failed(tree, last) && literalsOf(tree, node) !== null);
}

const literalsOf = (tree: TraceTree, node: number): number | null => tree.nodes[node].call?.literals ?? null;
const failed = (tree: TraceTree, node: number): boolean => isFailed(tree.nodes[node].span);
const isResend = (tree: TraceTree, node: number): boolean =>
  (numberOf(tree.nodes[node].span.attributes, 'http.request.resend_count') ?? 0) > 0;
