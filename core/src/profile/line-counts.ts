import type { LineTicks } from './model';

/** Weights by line of the functions that were running, gathered sample by sample. */
export class LineCounts {
  readonly #byNode = new Map<number, Map<number, number>>();

  /** @param line 1-based. */
  add(node: number, line: number, weight: number): void {
    let lines = this.#byNode.get(node);
    if (!lines) this.#byNode.set(node, (lines = new Map()));
    lines.set(line, (lines.get(line) ?? 0) + weight);
  }

  /** In flat arrays; null where no line is known. @param nodes how many the tree has. */
  ticks(nodes: number): LineTicks | null {
    if (this.#byNode.size === 0) return null;
    const start = new Int32Array(nodes + 1);
    const line: number[] = [];
    const ticks: number[] = [];
    for (let node = 0; node < nodes; node++) {
      for (const [at, weight] of this.#byNode.get(node) ?? []) {
        line.push(at);
        ticks.push(weight);
      }
      start[node + 1] = line.length;
    }
    return { start, line: Int32Array.from(line), ticks: Float64Array.from(ticks) };
  }
}
