import type { LineTicks } from './model';

/** Weights by line of the functions that were running, gathered sample by sample in flat lists: there may be millions. */
export class LineCounts {
  readonly #nodes: number[] = [];
  readonly #lines: number[] = [];
  readonly #weights: number[] = [];

  /** @param line 1-based. */
  add(node: number, line: number, weight: number): void {
    this.#nodes.push(node);
    this.#lines.push(line);
    this.#weights.push(weight);
  }

  /** Those of one node together, each line once; null where no line is known. @param nodes how many the tree has. */
  ticks(nodes: number): LineTicks | null {
    if (this.#nodes.length === 0) return null;
    const order = this.#byNode(nodes);
    const start = new Int32Array(nodes + 1);
    const line: number[] = [];
    const ticks: number[] = [];
    /** Where each line of the node at hand stands: one list for all, since most nodes have one line. */
    const places = new Map<number, number>();
    let next = 0;
    for (let node = 0; node < nodes; node++) {
      if (places.size > 0) places.clear();
      for (; next < order.length && this.#nodes[order[next]] === node; next++) {
        const at = places.get(this.#lines[order[next]]);
        if (at !== undefined) ticks[at] += this.#weights[order[next]];
        else {
          places.set(this.#lines[order[next]], line.length);
          line.push(this.#lines[order[next]]);
          ticks.push(this.#weights[order[next]]);
        }
      }
      start[node + 1] = line.length;
    }
    return { start, line: Int32Array.from(line), ticks: Float64Array.from(ticks) };
  }

  /** What was added, in the order of the nodes. */
  #byNode(nodes: number): Uint32Array {
    const places = new Uint32Array(nodes + 1);
    for (const node of this.#nodes) places[node + 1]++;
    for (let node = 0; node < nodes; node++) places[node + 1] += places[node];
    const order = new Uint32Array(this.#nodes.length);
    this.#nodes.forEach((node, i) => (order[places[node]++] = i));
    return order;
  }
}
