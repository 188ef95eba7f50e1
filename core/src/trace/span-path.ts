import type { TraceTree } from './tree';

/** What in a span's name differs from row to row: numbers and ids. */
const VARIES = /[0-9a-f]{8}-[0-9a-f-]{27}|(?=[a-f]*\d)[0-9a-f]{8,}|\d+/gi;

/**
 * Numbers the paths of span names from a request down to its nodes, as reported: two nodes have the same number where the names of all spans
 * above them are the same but for numbers and ids, level by level.
 * @returns by node of the request the number of the path to its parent.
 */
export function spanPaths(tree: TraceTree, request: number): (node: number) => number {
  const { parent } = tree.reported;
  const known = new Map<string, number>();
  /** By node the path to it, itself included. */
  const of = new Map<number, number>([[request, 0]]);
  const labels = new Map<string, string>();
  const labelOf = (name: string): string => {
    let label = labels.get(name);
    if (label === undefined) labels.set(name, (label = name.replace(VARIES, '#')));
    return label;
  };
  const pathTo = (node: number): number => {
    const chain: number[] = [];
    let at = node;
    while (at >= 0 && !of.has(at)) {
      chain.push(at);
      at = parent[at];
    }
    let path = at < 0 ? 0 : of.get(at)!;
    for (let i = chain.length - 1; i >= 0; i--) {
      const key = `${path} ${labelOf(tree.nodes[chain[i]].span.name)}`;
      let next = known.get(key);
      if (next === undefined) known.set(key, (next = known.size + 1));
      of.set(chain[i], (path = next));
    }
    return path;
  };
  return (node) => (parent[node] < 0 ? 0 : pathTo(parent[node]));
}
