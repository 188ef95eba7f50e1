import { alg, Graph } from '@dagrejs/graphlib';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { writeJvmDump, type WrittenThread } from '../testing/jvm-dump';
import { readJvmText } from './jvm-text';
import type { ThreadDump } from './model';
import { waitsFor } from './waits-for';

const dumpOf = (threads: WrittenThread[]): ThreadDump => readJvmText(writeJvmDump(threads)).series.dumps[0];
const address = (lock: number): string => `0x${(lock + 1).toString(16).padStart(16, '0')}`;

/** Thread i holds some locks and wants at most one that another holds; each lock has one holder at most. */
const situations = fc.integer({ min: 1, max: 12 }).chain((count) =>
  fc.record({
    holders: fc.array(fc.integer({ min: -1, max: count - 1 }), { minLength: 1, maxLength: 10 }),
    wants: fc.array(fc.integer({ min: -1, max: 9 }), { minLength: count, maxLength: count })
  })
);

function threadsOf({ holders, wants }: { holders: number[]; wants: number[] }): WrittenThread[] {
  return wants.map((wanted, i) => {
    const wants =
      wanted >= 0 && wanted < holders.length && holders[wanted] !== i ? address(wanted) : undefined;
    return {
      name: `t${i}`,
      wants,
      holds: holders.flatMap((holder, lock) => (holder === i ? [address(lock)] : []))
    };
  });
}

describe('who waits for whom', () => {
  it('has the cycles that @dagrejs/graphlib finds, and the roots and counts of a naive walk', () => {
    fc.assert(
      fc.property(situations, (situation) => {
        const threads = threadsOf(situation);
        const dump = dumpOf(threads);
        const found = waitsFor(dump);
        const ownerOf = (thread: number): number => {
          const { wants } = threads[thread];
          return wants ? threads.findIndex(({ holds }) => holds!.includes(wants)) : -1;
        };
        // Outside: graphlib's cycle search over the same edges.
        const graph = new Graph();
        threads.forEach((_, i) => graph.setNode(String(i)));
        threads.forEach((_, i) => ownerOf(i) >= 0 && graph.setEdge(String(i), String(ownerOf(i))));
        const cycles = alg.findCycles(graph).map((cycle) =>
          cycle
            .map(Number)
            .sort((a, b) => a - b)
            .join()
        );
        expect(found.deadlocks.map((one) => [...one.threads].sort((a, b) => a - b).join()).sort()).toEqual(
          cycles.sort()
        );
        for (const { threads: cycle, locks } of found.deadlocks)
          cycle.forEach((thread, i) => {
            expect(ownerOf(thread)).toBe(cycle[(i + 1) % cycle.length]);
            expect(dump.locks[locks[i]].id).toBe(threads[thread].wants);
          });
        // Naive: follow each thread to its end.
        const behind = new Map<string, Set<number>>();
        threads.forEach((_, i) => {
          let at = i;
          let last = i;
          for (let steps = 0; ownerOf(at) >= 0 && steps <= threads.length; steps++)
            [last, at] = [at, ownerOf(at)];
          if (ownerOf(at) >= 0 || at === i) return;
          const key = `${at} ${threads[last].wants}`;
          behind.set(key, (behind.get(key) ?? new Set()).add(i));
        });
        const roots = found.rootBlockers.map(({ thread, lock, transitive }) => [
          `${thread} ${dump.locks[lock].id}`,
          transitive
        ]);
        expect(Object.fromEntries(roots)).toEqual(
          Object.fromEntries([...behind].map(([key, set]) => [key, set.size]))
        );
      })
    );
  });

  it('goes to the end of a chain of 5,000 and through a queue of 5,000', () => {
    const chain = Array.from({ length: 5000 }, (_, i) => ({
      name: `link-${i}`,
      holds: [address(i)],
      wants: i > 0 ? address(i - 1) : undefined
    }));
    const [root] = waitsFor(dumpOf(chain)).rootBlockers;
    expect(root).toMatchObject({ thread: 0, direct: 1, transitive: 4999 });
    const ring = waitsFor(
      dumpOf(chain.map((thread, i) => ({ ...thread, wants: address((i + 4999) % 5000) })))
    );
    expect(ring.deadlocks[0].threads).toHaveLength(5000);
    const queue = [
      { name: 'holder', holds: [address(0)] },
      ...chain.slice(1).map(({ name }) => ({ name, wants: address(0) }))
    ];
    expect(waitsFor(dumpOf(queue)).rootBlockers[0]).toMatchObject({ direct: 4999, transitive: 4999 });
  });

  it('counts threads behind a deadlock', () => {
    const found = waitsFor(
      dumpOf([
        { name: 'a', holds: ['0x1'], wants: '0x2' },
        { name: 'b', holds: ['0x2', '0x3'], wants: '0x1' },
        { name: 'c', wants: '0x3', holds: ['0x4'] },
        { name: 'd', wants: '0x4' }
      ])
    );
    expect(found.deadlocks).toMatchObject([{ threads: [0, 1], behind: 2 }]);
    expect(found.rootBlockers).toEqual([]);
  });

  it('guesses no owner: a lock nobody holds stands alone', () => {
    const found = waitsFor(dumpOf([{ name: 'a', wants: '0x9' }]));
    expect(found.rootBlockers).toEqual([]);
    expect(found.ownerless).toHaveLength(1);
    expect(found.queues[0]).toMatchObject({ owners: [], waiting: [0], condition: false });
  });
});
