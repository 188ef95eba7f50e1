import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { callGroups } from '../calls/groups';
import { findBelow } from '../findings/request-findings';
import { anySpans } from '../testing/any-trace';
import { span } from '../testing/spans';
import { align } from './align';
import { Replay } from './replay';
import { accountTrace, subtree, type TraceAccount } from './requests';
import { combKey, heaviestSpans, timelineRows, type FoldState } from './rows';
import { buildTree } from './tree';

/** What must hold of every trace, whatever its shape. */
const traces = anySpans.map((shapes) => accountTrace(buildTree(shapes.map(span))));
const traceAndSeed = fc.tuple(traces, fc.array(fc.nat(1000), { minLength: 60, maxLength: 60 }));
const FOLDED: FoldState = { openCombs: new Set(), closedSpans: new Set() };

/** Every second or so of the things there are, by a row of random numbers. */
const some = <T>(items: readonly T[], seed: readonly number[]): T[] =>
  items.filter((_, i) => seed[i % seed.length] % 2 === 0);

describe('the rows of a timeline', () => {
  const check = ({ tree }: TraceAccount, root: number, folds: FoldState): void => {
    const { rows, rowOf } = timelineRows(tree, root, folds);
    const below = new Set(subtree(tree.reported, root));
    tree.nodes.forEach((_, node) => {
      const row = rows[rowOf[node]];
      if (!below.has(node)) return expect(rowOf[node]).toBe(-1);
      // Each node is drawn in its row, or hidden behind one that holds it or stands above it.
      const holders = row.kind === 'comb' ? row.members : [row.node];
      let at = node;
      while (at >= 0 && !holders.includes(at)) at = tree.reported.parent[at];
      expect(holders).toContain(at);
    });
    const drawn = rows.flatMap((row) =>
      row.kind === 'process' ? [] : row.kind === 'comb' ? row.members : [row.node]
    );
    expect(new Set(drawn).size).toBe(drawn.length);
    expect(new Set(rows.map(({ key }) => key)).size).toBe(rows.length);
    for (const row of rows) {
      if (row.kind !== 'comb') continue;
      expect(row.members.length).toBeGreaterThan(1);
      const names = row.members.map(
        (node) => tree.nodes[node].call?.fingerprint ?? tree.nodes[node].span.name
      );
      expect(new Set(names).size).toBe(1);
    }
  };
  it('hold each span of the request once, folded or not', () => {
    fc.assert(
      fc.property(traceAndSeed, ([trace, seed]) => {
        const { tree } = trace;
        for (const root of tree.roots) {
          check(trace, root, FOLDED);
          const combs = timelineRows(tree, root, FOLDED).rows.filter(({ kind }) => kind === 'comb');
          check(trace, root, {
            openCombs: new Set(some(combs, seed).map(({ members }) => combKey(tree, members))),
            closedSpans: new Set(some(tree.nodes, seed.toReversed()).map((node) => node.span.spanId))
          });
        }
      }),
      { numRuns: 200 }
    );
  });
  it('show every span by itself where all is unfolded', () => {
    fc.assert(
      fc.property(traces, ({ tree }) => {
        for (const root of tree.roots) {
          const openCombs = new Set<string>();
          // Below the calls of a comb there may be further combs.
          for (let last = -1; last < openCombs.size;) {
            last = openCombs.size;
            for (const row of timelineRows(tree, root, { openCombs, closedSpans: new Set() }).rows)
              if (row.kind === 'comb') openCombs.add(row.key);
            if (last === openCombs.size) break;
          }
          const { rows } = timelineRows(tree, root, { openCombs, closedSpans: new Set() });
          expect(rows.filter(({ kind }) => kind === 'span')).toHaveLength(subtree(tree, root).length);
        }
      }),
      { numRuns: 100 }
    );
  });
});

describe('the heaviest branch', () => {
  it('goes from parent to child, each the heaviest of its siblings and a third of its parent at least', () => {
    fc.assert(
      fc.property(traces, (trace) => {
        const { tree } = trace;
        for (const request of trace.requests) {
          const sums = request.within;
          // What is booked below the request is all of its time.
          expect(sums[request.node]).toBe(request.durationNs);
          const branch = heaviestSpans(tree, request.node, (node) => sums[node]);
          for (let i = 1; i < branch.length; i++) {
            expect(tree.parent[branch[i]]).toBe(branch[i - 1]);
            expect(sums[branch[i]]).toBe(Math.max(...tree.children[branch[i - 1]].map((node) => sums[node])));
            expect(sums[branch[i]] * 3).toBeGreaterThanOrEqual(sums[branch[i - 1]]);
          }
        }
      }),
      { numRuns: 150 }
    );
  });
});

describe('call groups', () => {
  it('hold each call below the request once, with sums by hand', () => {
    fc.assert(
      fc.property(traces, (trace) => {
        const { tree } = trace;
        for (const request of trace.requests) {
          const calls = subtree(tree, request.node).filter((node) => tree.nodes[node].call);
          const groups = callGroups(tree, request);
          expect(groups.flatMap(({ nodes }) => nodes).sort((a, b) => a - b)).toEqual(
            calls.sort((a, b) => a - b)
          );
          for (const { nodes, fingerprint, kind, totalNs, fastestNs, slowestNs, bookedNs, count } of groups) {
            const took = nodes.map((node) => tree.end[node] - tree.start[node]);
            expect(count).toBe(nodes.length);
            expect(totalNs).toBe(took.reduce((sum, one) => sum + one, 0));
            expect([fastestNs, slowestNs]).toEqual([Math.min(...took), Math.max(...took)]);
            expect(bookedNs).toBe(nodes.reduce((sum, node) => sum + (request.booked.get(node) ?? 0), 0));
            for (const node of nodes) expect(tree.nodes[node].call).toMatchObject({ fingerprint, kind });
          }
          expect(groups.reduce((sum, { bookedNs }) => sum + bookedNs, 0)).toBeLessThanOrEqual(
            request.durationNs
          );
        }
      }),
      { numRuns: 150 }
    );
  });
});

describe('a replay', () => {
  it('of shorter spans is no longer, and by no more shorter than they are', () => {
    fc.assert(
      fc.property(traceAndSeed, ([{ tree }, seed]) => {
        for (const root of tree.roots) {
          const leaves = subtree(tree, root).filter(
            (node) => node !== root && tree.children[node].length === 0
          );
          const edit = new Map<number, number>();
          let less = 0;
          some(leaves, seed).forEach((node, i) => {
            const was = tree.end[node] - tree.start[node];
            const becomes = Math.floor((was * (seed[i % seed.length] % 101)) / 100);
            edit.set(node, becomes);
            less += was - becomes;
          });
          const was = tree.end[root] - tree.start[root];
          const becomes = new Replay(tree, root).durationNs(edit);
          expect(becomes).toBeLessThanOrEqual(was);
          expect(becomes).toBeGreaterThanOrEqual(was - less);
        }
      }),
      { numRuns: 200 }
    );
  });
  it('of one more shortened span is no longer than without it', () => {
    fc.assert(
      fc.property(traceAndSeed, ([{ tree }, seed]) => {
        for (const root of tree.roots) {
          const replay = new Replay(tree, root);
          const edit = new Map<number, number>();
          let before = replay.durationNs(edit);
          for (const node of some(subtree(tree, root).slice(1), seed)) {
            if (tree.children[node].length > 0) continue;
            edit.set(node, 0);
            const now = replay.durationNs(edit);
            expect(now).toBeLessThanOrEqual(before);
            before = now;
          }
        }
      }),
      { numRuns: 100 }
    );
  });
});

describe('findings', () => {
  it('are about spans that came, cost no more than the request, and promise no more than that', () => {
    fc.assert(
      fc.property(traces, (trace) => {
        const ids = new Set(trace.tree.nodes.map(({ span: { spanId } }) => spanId));
        for (const request of trace.requests) {
          for (const finding of findBelow(trace, request)) {
            expect(finding.costNs).toBeGreaterThanOrEqual(0);
            expect(finding.costNs).toBeLessThanOrEqual(request.durationNs);
            expect(finding.evidence.spanIds.length).toBeGreaterThan(0);
            for (const id of finding.evidence.spanIds) expect(ids).toContain(id);
            expect(finding.sentence).not.toMatch(/NaN|undefined|null|Infinity/);
            expect(finding.remedy.length).toBeGreaterThan(0);
            const { saving } = finding;
            if (!saving) continue;
            expect(saving.lowNs).toBeGreaterThanOrEqual(0);
            expect(saving.highNs).toBeGreaterThanOrEqual(saving.lowNs);
            expect(saving.highNs).toBeLessThanOrEqual(request.durationNs);
            expect(finding.assumption).toBeTruthy();
            for (const node of finding.edit?.keys() ?? []) expect(trace.tree.nodes[node]).toBeDefined();
          }
        }
      }),
      { numRuns: 300 }
    );
  });
});

describe('two requests side by side', () => {
  it('have each span of both in one row', () => {
    fc.assert(
      fc.property(traces, traces, ({ tree: one }, { tree: other }) => {
        const rows = align({
          before: { tree: other, root: other.roots[0] },
          after: { tree: one, root: one.roots[0] }
        });
        const sorted = (nodes: number[]): number[] => nodes.sort((a, b) => a - b);
        expect(sorted(rows.flatMap(({ after }) => after.nodes))).toEqual(sorted(subtree(one, one.roots[0])));
        expect(sorted(rows.flatMap(({ before }) => before.nodes))).toEqual(
          sorted(subtree(other, other.roots[0]))
        );
        for (const { before, after, verdict } of rows.slice(1)) {
          expect(verdict === 'extra').toBe(before.nodes.length === 0);
          expect(verdict === 'missing').toBe(after.nodes.length === 0);
        }
      }),
      { numRuns: 100 }
    );
  });
  it('are alike where they are the same', () => {
    fc.assert(
      fc.property(traces, ({ tree }) => {
        for (const root of tree.roots)
          for (const { verdict } of align({ before: { tree, root }, after: { tree, root } }))
            expect(verdict).toBe('alike');
      }),
      { numRuns: 100 }
    );
  });
});
