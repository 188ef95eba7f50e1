import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { callersTree } from './callers';
import { functionWeights } from './functions';
import { combineProfiles } from './combine';
import { layoutInTime, layoutThreadsInTime } from './in-time';
import type { Profile } from './model';
import { neighboursOf } from './neighbours';
import { packageWeights } from './packages';
import { shape, targets, UNSHAPED, type Shaping } from './shape';
import { slice, WHOLE } from './slice';
import { anyProfile, read } from '../testing/any-profile';

/** One sample's stack, root first, without the root: what every figure is counted from by hand here. */
interface Stack {
  frames: number[];
  weight: number;
}

/** The raw samples as stacks; idle ones left out. */
function stacksOf(profile: Profile): Stack[] {
  const stacks: Stack[] = [];
  profile.sampleNode.forEach((leaf, i) => {
    const frames: number[] = [];
    for (let node = leaf; node > 0; node = profile.nodeParent[node]) frames.push(profile.nodeFrame[node]);
    if (profile.frames[profile.nodeFrame[leaf]].kind !== 'idle')
      stacks.push({ frames: frames.reverse(), weight: profile.sampleWeight[i] });
  });
  return stacks;
}

/** The acts done to each stack by itself, as their words say. */
function shapeByHand(
  profile: Profile,
  stacks: readonly Stack[],
  { acts, root, foldRecursion }: Shaping
): Stack[] {
  return stacks.flatMap(({ frames, weight }) => {
    for (const { act, target } of acts) {
      const meets = frames.some((frame) => targets(profile.frames[frame], frame, target));
      if ((act === 'hide' && meets) || (act === 'only' && !meets)) return [];
    }
    let left = frames;
    if (root >= 0) {
      if (!left.includes(root)) return [];
      left = left.slice(left.indexOf(root));
    }
    const folded = (frame: number): boolean =>
      acts.some(({ act, target }) => act === 'fold' && targets(profile.frames[frame], frame, target));
    left = left.filter((frame, i) => (root >= 0 && i === 0) || !folded(frame));
    if (foldRecursion) {
      // A call of a function within itself is put to the outermost one: with the callers that one has.
      const outermost = new Map<number, number[]>();
      let path: number[] = [];
      for (const frame of left) {
        path = outermost.get(frame) ?? [...path, frame];
        outermost.set(frame, path);
      }
      left = path;
    }
    return [{ frames: left, weight }];
  });
}

function weightsByHand(stacks: readonly Stack[]): Map<number, { self: number; total: number }> {
  const sums = new Map<number, { self: number; total: number }>();
  for (const { frames, weight } of stacks) {
    for (const frame of new Set(frames)) {
      const sum = sums.get(frame) ?? { self: 0, total: 0 };
      sum.total += weight;
      if (frames.at(-1) === frame) sum.self += weight;
      sums.set(frame, sum);
    }
  }
  return sums;
}

const close = (a: number, b: number): void => expect(Math.abs(a - b)).toBeLessThan(1);

const anyShaping = (profile: Profile): fc.Arbitrary<Shaping> =>
  fc.record({
    acts: fc.array(
      fc.record({
        act: fc.constantFrom('hide' as const, 'fold' as const, 'only' as const),
        target: fc.oneof(
          fc.nat(profile.frames.length - 1).map((frame) => ({ by: 'frame' as const, frame })),
          fc.constantFrom('gc' as const, 'native' as const).map((kind) => ({ by: 'kind' as const, kind }))
        )
      }),
      { maxLength: 3 }
    ),
    root: fc.oneof(fc.constant(-1), fc.integer({ min: 1, max: Math.max(1, profile.frames.length - 1) })),
    foldRecursion: fc.boolean()
  });
const anyShaped = anyProfile.chain((profile) => fc.tuple(fc.constant(profile), anyShaping(profile)));

describe('shaping', () => {
  it('weighs every function as a count over the raw samples does', () => {
    fc.assert(
      fc.property(anyShaped, ([profile, shaping]) => {
        // The root frame itself stands in no stack that is counted by hand.
        const clean = {
          ...shaping,
          acts: shaping.acts.filter(({ target }) => target.by !== 'frame' || target.frame > 0)
        };
        if (clean.root >= profile.frames.length) return;
        const tree = shape(profile, clean);
        const weights = slice(profile, WHOLE, tree);
        const byHand = shapeByHand(profile, stacksOf(profile), clean);
        close(
          weights.sum,
          byHand.reduce((sum, { weight }) => sum + weight, 0)
        );
        const sums = weightsByHand(byHand);
        for (const { frame, self, total } of functionWeights(profile.frames, tree, weights)) {
          close(total, sums.get(frame)?.total ?? 0);
          close(self, sums.get(frame)?.self ?? 0);
        }
      }),
      { numRuns: 400 }
    );
  });

  it('gives the profile itself back where nothing is to be done', () => {
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['a', 0]
      ],
      samples: [[1, 0]]
    });
    expect(shape(profile, UNSHAPED).nodeFrame).toBe(profile.nodeFrame);
  });

  it('merges all calls of a function, a call within itself counted once', () => {
    // root → a → f → g → f (leaf), root → b → f (leaf)
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['a', 0],
        ['f', 1],
        ['g', 2],
        ['f', 3],
        ['b', 0],
        ['f', 5]
      ],
      samples: [
        [4, 0],
        [6, 1000],
        [1, 1000]
      ]
    });
    const f = profile.frames.findIndex(({ name }) => name === 'f');
    const tree = shape(profile, { ...UNSHAPED, root: f });
    const weights = slice(profile, WHOLE, tree);
    expect(weights.sum).toBe(2e6);
    expect(tree.nodeFrame[0]).toBe(f);
    expect(functionWeights(profile.frames, tree, weights).find(({ frame }) => frame === f)).toEqual({
      frame: f,
      self: 2e6,
      total: 2e6
    });
  });

  it('puts a call within itself to the outermost one, whoever else was folded in between', () => {
    // root → c → d → a → c → a (leaf): the inner a stands within the outer, which d called.
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['c', 0],
        ['d', 1],
        ['a', 2],
        ['c', 3],
        ['a', 4]
      ],
      samples: [[5, 0]]
    });
    const tree = shape(profile, { ...UNSHAPED, foldRecursion: true });
    const weights = slice(profile, WHOLE, tree);
    const named = functionWeights(profile.frames, tree, weights).map(({ frame, self, total }) => [
      profile.frames[frame].name,
      self === weights.sum,
      total === weights.sum
    ]);
    expect(named.sort()).toEqual([
      ['a', true, true],
      ['c', false, true],
      ['d', false, true]
    ]);
  });

  it('bears stacks 20,000 deep with recursion folded', () => {
    const nodes: [string, number][] = [['(root)', -1]];
    for (let i = 0; i < 20_000; i++) nodes.push([`f${i % 5}`, i]);
    const profile = read({ nodes: nodes.slice(0, 2), samples: [[1, 0]] });
    profile.nodeFrame = Int32Array.from(nodes, (_, i) => (i === 0 ? 0 : 1));
    profile.nodeParent = Int32Array.from(nodes, ([, parent]) => parent);
    profile.nodeOutermost = Uint8Array.from(nodes, (_, i) => (i < 2 ? 1 : 0));
    profile.sampleNode = Int32Array.of(20_000);
    expect(shape(profile, { ...UNSHAPED, foldRecursion: true }).nodeFrame).toHaveLength(2);
  });
});

describe('the tree read from the leaves', () => {
  it('has the functions by their own weight, and as much of each caller as a count by hand', () => {
    fc.assert(
      fc.property(anyProfile, (profile) => {
        const weights = slice(profile);
        const tree = callersTree(profile, weights);
        const stacks = stacksOf(profile);
        const sums = weightsByHand(stacks);
        for (let node = 1; node < tree.nodeFrame.length; node++) {
          if (tree.nodeParent[node] !== 0) continue;
          close(tree.weights.total[node], sums.get(tree.nodeFrame[node])!.self);
        }
        for (let node = 1; node < tree.nodeFrame.length; node++) {
          const above = tree.nodeParent[node];
          if (above === 0 || tree.nodeParent[above] !== 0) continue;
          const byHand = stacks
            .filter(
              ({ frames }) =>
                frames.at(-1) === tree.nodeFrame[above] && frames.at(-2) === tree.nodeFrame[node]
            )
            .reduce((sum, { weight }) => sum + weight, 0);
          close(tree.weights.total[node], byHand);
        }
      })
    );
  });

  it('finds callers that ask 70 and 30 of 100', () => {
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['main', 0],
        ['often', 1],
        ['seldom', 1],
        ['work', 2],
        ['work', 3]
      ],
      samples: [
        [4, 0],
        [5, 7000],
        [0, 3000]
      ]
    });
    const work = profile.frames.findIndex(({ name }) => name === 'work');
    const tree = callersTree(profile, slice(profile), work);
    const shares = [...tree.nodeFrame]
      .map((frame, node) => [profile.frames[frame].name, tree.weights.total[node] / 1e6])
      .filter((_, node) => tree.nodeParent[node] === 1);
    expect(shares).toEqual([
      ['often', 7],
      ['seldom', 3]
    ]);
  });
});

describe('neighbours', () => {
  it('counts each sample once for each caller and callee', () => {
    fc.assert(
      fc.property(anyProfile, fc.nat(5), (profile, pick) => {
        const frame = 1 + (pick % Math.max(1, profile.frames.length - 1));
        if (frame >= profile.frames.length) return;
        const found = neighboursOf(profile, slice(profile), frame);
        const stacks = stacksOf(profile);
        const pairs = (of: (frames: number[], i: number) => number | undefined): Map<number, number> => {
          const sums = new Map<number, number>();
          for (const { frames, weight } of stacks) {
            const met = new Set(frames.flatMap((at, i) => (at === frame ? [of(frames, i)] : [])));
            for (const other of met)
              if (other !== undefined) sums.set(other, (sums.get(other) ?? 0) + weight);
          }
          return sums;
        };
        const callees = pairs((frames, i) => frames[i + 1]);
        const callers = pairs((frames, i) => (i === 0 ? 0 : frames[i - 1]));
        for (const { frame: other, weight } of found.callees) close(weight, callees.get(other) ?? 0);
        for (const { frame: other, weight } of found.callers) close(weight, callers.get(other) ?? 0);
        expect(found.callees.length).toBe([...callees.values()].filter((weight) => weight > 0).length);
      })
    );
  });
});

describe('packages', () => {
  it('own every nanosecond once', () => {
    fc.assert(
      fc.property(anyProfile, (profile) => {
        const weights = slice(profile);
        const sum = packageWeights(profile.frames, profile, weights).reduce((all, { self }) => all + self, 0);
        close(sum + weights.self[0], weights.sum);
      })
    );
  });
});

describe('the picture in time order', () => {
  it('shows each stack while it ran, children inside their callers', () => {
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['a', 0],
        ['b', 1],
        ['c', 0],
        ['(idle)', 0]
      ],
      samples: [
        [1, 0],
        [2, 1000],
        [1, 1000],
        [4, 1000],
        [3, 1000]
      ]
    });
    const layout = layoutInTime(profile, shape(profile, UNSHAPED), {
      fromNs: 0,
      toNs: profile.durationNs,
      thread: -1,
      includeIdle: false,
      finest: 1e-6
    });
    const boxes = [...layout.node].map((node, box) => [
      profile.frames[profile.nodeFrame[node]].name,
      layout.depth[box],
      Math.round(layout.x[box] * 5),
      Math.round(layout.width[box] * 5)
    ]);
    expect(boxes).toEqual([
      ['(root)', 0, 0, 3],
      ['(root)', 0, 4, 1],
      ['a', 1, 0, 3],
      ['c', 1, 4, 1],
      ['b', 2, 1, 1]
    ]);
    expect(layout.thinned).toBe(false);
  });

  it('is thinned to the pixels there are, and says so', () => {
    const samples = Array.from({ length: 1000 }, (_, i): [number, number] => [1 + (i % 2), i === 0 ? 0 : 10]);
    const profile = read({
      nodes: [
        ['(root)', -1],
        ['a', 0],
        ['b', 0]
      ],
      samples
    });
    const tree = shape(profile, UNSHAPED);
    const window = { fromNs: 0, toNs: profile.durationNs, thread: -1, includeIdle: false, finest: 0.1 };
    const layout = layoutInTime(profile, tree, window);
    expect(layout.thinned).toBe(true);
    expect(layout.node.length).toBeLessThan(30);
  });

  it('has a set of rows for each thread, its name above, and each is the picture of that thread alone', () => {
    const nodes: [string, number][] = [
      ['(root)', -1],
      ['a', 0],
      ['b', 1]
    ];
    const one = read({
      nodes,
      samples: [
        [2, 0],
        [1, 1000],
        [2, 1000]
      ]
    });
    const other = read({
      nodes,
      samples: [
        [1, 0],
        [1, 500],
        [2, 500]
      ]
    });
    const both = combineProfiles([
      { name: 'quay', offsetNs: 0, profile: one },
      { name: 'tide', offsetNs: 250_000, profile: other }
    ]);
    const tree = shape(both, UNSHAPED);
    const window = { fromNs: 0, toNs: both.durationNs, thread: -1, includeIdle: false, finest: 1e-9 };
    const layout = layoutThreadsInTime(both, tree, window);
    expect(both.threads).toHaveLength(2);
    let row = 0;
    let box = 0;
    for (const { thread, row: name } of layout.bands) {
      const alone = layoutInTime(both, tree, { ...window, thread });
      expect(name).toBe(row);
      for (let i = 0; i < alone.node.length; i++, box++) {
        expect([layout.node[box], layout.depth[box], layout.x[box], layout.width[box]]).toEqual([
          alone.node[i],
          name + 1 + alone.depth[i],
          alone.x[i],
          alone.width[i]
        ]);
        expect(layout.depth[layout.parent[box]] ?? name).toBe(layout.depth[box] - 1);
      }
      row += alone.rows + 1;
    }
    expect([layout.bands.length, layout.rows, layout.node.length]).toEqual([2, row, box]);
  });
});
