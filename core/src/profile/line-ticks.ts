import type { LineTicks } from './model';

/** `Profiler.PositionTickInfo` of the Chrome DevTools Protocol: samples on a line, which counts from 1. */
export interface V8PositionTick {
  line: number;
  ticks: number;
}

/** Line ticks of every node in flat arrays; null where the profile has none. */
export function readLineTicks(
  nodes: number,
  ticksOf: (node: number) => V8PositionTick[] | undefined
): LineTicks | null {
  const start = new Int32Array(nodes + 1);
  const line: number[] = [];
  const ticks: number[] = [];
  for (let node = 0; node < nodes; node++) {
    const found = ticksOf(node);
    if (Array.isArray(found)) {
      for (const tick of found) {
        if (!(tick?.line > 0) || !(tick.ticks > 0)) continue;
        line.push(tick.line);
        ticks.push(tick.ticks);
      }
    }
    start[node + 1] = line.length;
  }
  return line.length > 0 ? { start, line: Int32Array.from(line), ticks: Float64Array.from(ticks) } : null;
}
