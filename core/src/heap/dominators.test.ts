import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { graphOf, graphs, reachedWithout } from '../testing/any-graph';
import { dominators } from './dominators';
import { dominatorTree, retainedByGroup, retainedSizes } from './retained';

describe('dominators and retained sizes', () => {
  it('are those of the definition: taking an object away frees just what it retains', () => {
    fc.assert(
      fc.property(
        graphs,
        fc.array(fc.integer({ min: 1, max: 1000 }), { minLength: 24, maxLength: 24 }),
        (made, sizes) => {
          const graph = graphOf(made);
          const found = dominators(graph);
          const shallow = Uint32Array.from(sizes);
          const retained = retainedSizes({ count: made.count, shallow }, found);
          const all = reachedWithout(made, -1);
          expect(new Set(found.order)).toEqual(all);
          for (let node = 0; node < made.count; node++) {
            if (!all.has(node)) {
              expect(found.idom[node]).toBe(-1);
              continue;
            }
            const left = reachedWithout(made, node);
            const freed = [...all].filter((one) => !left.has(one));
            expect(retained[node]).toBe(freed.reduce((sum, one) => sum + shallow[one], 0));
            // The immediate dominator is the nearest of those without which it is not reached.
            const above = [...all].filter((one) => one !== node && !reachedWithout(made, one).has(node));
            const nearest = above.find((one) =>
              above.every((other) => other === one || !reachedWithout(made, other).has(one))
            );
            expect(found.idom[node]).toBe(nearest ?? made.count);
          }
          expect(retained[made.count]).toBe([...all].reduce((sum, one) => sum + shallow[one], 0));
        }
      ),
      { numRuns: 400 }
    );
  });

  it('of a group are what would be freed with all its members at once', () => {
    fc.assert(
      fc.property(
        graphs,
        fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 24, maxLength: 24 }),
        (made, groups) => {
          const found = dominators(graphOf(made));
          const shallow = new Uint32Array(made.count).fill(8);
          const retained = retainedSizes({ count: made.count, shallow }, found);
          const tree = dominatorTree(made.count, found);
          const classes = Uint32Array.from(groups);
          // Four classes, of which the first and the third are of one package.
          const packageOf = Uint32Array.of(0, 1, 0, 1);
          const { byClass, byPackage } = retainedByGroup(made.count, tree, retained, classes, packageOf, 2);
          const all = reachedWithout(made, -1);
          // Only members that dominate: the union of the subtrees of the dominator tree.
          const unionOf = (isMember: (node: number) => boolean): number => {
            const union = new Set<number>();
            for (const node of all) {
              if (!isMember(node)) continue;
              const left = reachedWithout(made, node);
              for (const one of all) if (!left.has(one)) union.add(one);
            }
            return union.size * 8;
          };
          for (let group = 0; group < 4; group++)
            expect(byClass[group]).toBe(unionOf((node) => groups[node] === group));
          for (let part = 0; part < 2; part++)
            expect(byPackage[part]).toBe(unionOf((node) => packageOf[groups[node]] === part));
        }
      ),
      { numRuns: 200 }
    );
  });

  it('go to the end of a chain of 2,000,000', () => {
    const count = 2_000_000;
    const edgeStart = Uint32Array.from({ length: count + 1 }, (_, i) => Math.min(i, count - 1));
    const edgeTo = Uint32Array.from({ length: count - 1 }, (_, i) => i + 1);
    const graph = { count, edgeStart, edgeTo, roots: Uint32Array.of(0) };
    const found = dominators(graph);
    const retained = retainedSizes({ count, shallow: new Uint32Array(count).fill(1) }, found);
    expect(retained[0]).toBe(count);
    expect(retained[count - 1]).toBe(1);
    const tree = dominatorTree(count, found);
    const { byClass } = retainedByGroup(count, tree, retained, new Uint32Array(count), Uint32Array.of(0), 1);
    expect(byClass[0]).toBe(count);
  });
});
