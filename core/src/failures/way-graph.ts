import type { Station } from './trace-failures';

/** A station that ways share, and how many failures came by. */
export interface WayNode extends Station {
  /** 0 where it starts; the last one where it ends. */
  column: number;
  /** Place in its column, from 0. */
  row: number;
  times: number;
  /** How many ended here unseen: they were caught, or nobody waited. */
  caught: number;
}

export interface WayEdge {
  from: number;
  to: number;
  times: number;
}

export interface WayGraph {
  columns: number;
  rows: number;
  nodes: WayNode[];
  edges: WayEdge[];
}

/**
 * Ways of failures laid over each other, from left to right: all start in the first column, and those that go on end in the last. What comes by a station is what goes on from it and what ends there.
 * @param ways each with how often it was taken, and how often people saw the failure at its end
 */
export function wayGraph(
  ways: readonly { stations: readonly Station[]; times: number; seen: number }[]
): WayGraph {
  const columns = Math.max(1, ...ways.map(({ stations }) => stations.length));
  const nodes: WayNode[] = [];
  const places = new Map<string, number>();
  const edges = new Map<string, WayEdge>();
  const rows = new Array<number>(columns).fill(0);
  for (const { stations, times, seen } of ways) {
    let before = -1;
    stations.forEach((station, i) => {
      const isLast = i === stations.length - 1;
      const column = isLast && i > 0 ? columns - 1 : i;
      const key = JSON.stringify([column, station.service, station.label]);
      let node = places.get(key);
      if (node === undefined) {
        places.set(key, (node = nodes.length));
        nodes.push({ ...station, column, row: rows[column]++, times: 0, caught: 0 });
      }
      nodes[node].times += times;
      if (isLast) nodes[node].caught += times - seen;
      if (before >= 0) {
        const edge = edges.get(`${before} ${node}`);
        if (edge) edge.times += times;
        else edges.set(`${before} ${node}`, { from: before, to: node, times });
      }
      before = node;
    });
  }
  return { columns, rows: Math.max(1, ...rows), nodes, edges: [...edges.values()] };
}
