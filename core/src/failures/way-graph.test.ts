import fc from 'fast-check';
import { expect, it } from 'vitest';
import { wayGraph } from './way-graph';

const station = fc.record({
  service: fc.constantFrom('berths', 'pilots', 'gateway'),
  label: fc.constantFrom('409', '502')
});
const ways = fc.array(
  fc
    .record({
      stations: fc.array(station, { minLength: 1, maxLength: 5 }),
      times: fc.integer({ min: 1, max: 500 }),
      seen: fc.nat(500)
    })
    .map((way) => ({ ...way, seen: Math.min(way.seen, way.times) })),
  { maxLength: 8 }
);

it('adds up: what comes to a station goes on from it or ends there', () =>
  fc.assert(
    fc.property(ways, (list) => {
      const { nodes, edges, columns } = wayGraph(list);
      const sum = (numbers: number[]): number => numbers.reduce((total, one) => total + one, 0);
      nodes.forEach(({ times, column, caught }, i) => {
        const into = sum(edges.filter(({ to }) => to === i).map((edge) => edge.times));
        const on = sum(edges.filter(({ from }) => from === i).map((edge) => edge.times));
        const began = sum(
          list
            .filter(
              ({ stations: [one] }) =>
                column === 0 && one.service === nodes[i].service && one.label === nodes[i].label
            )
            .map((way) => way.times)
        );
        expect(into + began).toBe(times);
        expect(on).toBeLessThanOrEqual(times);
        expect(caught).toBeLessThanOrEqual(times - on);
        expect(column).toBeLessThan(columns);
      });
      expect(
        sum(nodes.filter(({ column }) => column === 0).map(({ times }) => times)) -
          sum(edges.filter(({ to }) => nodes[to].column === 0).map(({ times }) => times))
      ).toBe(sum(list.map(({ times }) => times)));
      for (const { from, to } of edges) expect(nodes[from].column).toBeLessThan(nodes[to].column);
    })
  ));
