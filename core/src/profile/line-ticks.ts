import type { LineTicks } from './model';
import type { V8Nodes } from './v8-document';

/**
 * Line ticks of every node in flat arrays; null where the profile has none.
 * @param placed node → its position in the file.
 */
export function lineTicks(
  placed: ArrayLike<number>,
  { tickStart, tickLine, ticks }: Pick<V8Nodes, 'tickStart' | 'tickLine' | 'ticks'>
): LineTicks | null {
  const start = new Int32Array(placed.length + 1);
  const line: number[] = [];
  const counts: number[] = [];
  for (let node = 0; node < placed.length; node++) {
    for (let i = tickStart[placed[node]]; i < tickStart[placed[node] + 1]; i++) {
      if (!(tickLine[i] > 0) || !(ticks[i] > 0)) continue;
      line.push(tickLine[i]);
      counts.push(ticks[i]);
    }
    start[node + 1] = line.length;
  }
  return line.length > 0 ? { start, line: Int32Array.from(line), ticks: Float64Array.from(counts) } : null;
}
