import { groupBy } from '../group-by';
import { isFailed } from '../trace/requests';
import { numberOf } from '../trace/span';
import type { TraceTree } from '../trace/tree';

/** Attempts at one and the same call under one parent, each begun after the one before had failed. */
export interface RetryChain {
  nodes: number[];
  /** True where the last attempt failed too. */
  gaveUp: boolean;
}

/**
 * Finds chains of retries among like calls: the same literals asked again after a failure, under one parent; and calls
 * that say themselves that they are a resend (`http.request.resend_count`, OpenTelemetry semantic conventions for HTTP).
 * @param nodes calls of one group.
 */
export function retryChains(tree: TraceTree, nodes: readonly number[]): RetryChain[] {
  const byKey = groupBy(
    nodes,
    (node) => `${tree.parent[node]} ${tree.nodes[node].span.call?.literals ?? 'unknown'}`
  );
  const chains: RetryChain[] = [];
  for (const same of byKey.values()) {
    same.sort((a, b) => tree.start[a] - tree.start[b]);
    let chain: number[] = [];
    const close = (): void => {
      if (chain.length > 1) chains.push({ nodes: chain, gaveUp: failed(tree, chain[chain.length - 1]) });
      chain = [];
    };
    for (const node of same) {
      const last = chain[chain.length - 1];
      const follows = last !== undefined && (failed(tree, last) || isResend(tree, node));
      if (!follows) close();
      chain.push(node);
    }
    close();
  }
  return chains;
}

const failed = (tree: TraceTree, node: number): boolean => isFailed(tree.nodes[node].span);
const isResend = (tree: TraceTree, node: number): boolean =>
  (numberOf(tree.nodes[node].span.attributes, 'http.request.resend_count') ?? 0) > 0;
