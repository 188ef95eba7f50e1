import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Frame, Profile } from '../model';
import { slice } from '../slice';
import { functionWeights } from '../functions';
import { StackBuilder } from '../stack-builder';
import { condense, MOST_DEEP, type CondensedProfile, type ServedRequest } from './condense';
import { coverageOf } from './coverage';
import { FunctionInSums, StackSums, type StackDictionary } from './stack-sums';
import { readStackWeights, writeStackWeights } from './stack-weights';

const MS = 1e6;
const START_US = 1_700_000_040_000_000;

const frame = (name: string, kind: Frame['kind'] = 'app'): Frame => ({
  name,
  file: kind === 'app' ? '/quay/desk.js' : '',
  line: 1,
  column: 1,
  package: '',
  kind
});

/** A profile of stacks written `a;b`, one after another for so many milliseconds; `idle` is idle. */
function profileOf(stacks: readonly [stack: string, ms: number][]): Profile {
  const frames = [frame('(root)', 'root'), frame('idle', 'idle')];
  const builder = new StackBuilder(0);
  const nodes = stacks.map(([stack]) =>
    stack.split(';').reduce((node, name) => {
      let at = frames.findIndex((one) => one.name === name);
      if (at < 0) at = frames.push(frame(name)) - 1;
      return builder.child(node, at);
    }, 0)
  );
  let clock = 0;
  const sampleTime = Float64Array.from(stacks, ([, ms]) => (clock += ms * MS) - ms * MS);
  return {
    valueType: 'cpu',
    unit: 'nanoseconds',
    frames,
    ...builder.tree(frames.length),
    sampleNode: Int32Array.from(nodes),
    sampleTime,
    sampleWeight: Float64Array.from(stacks, ([, ms]) => ms * MS),
    sampleThread: null,
    threads: ['main'],
    durationNs: clock,
    ticks: null
  };
}

/** Stores condensed recordings as a server does: stacks get numbers, callers before callees. */
class Store {
  readonly frames: Frame[] = [];
  readonly #parents: number[] = [];
  readonly #frames: number[] = [];

  numbers({ frames, stackFrame, stackParent }: CondensedProfile): number[] {
    const numbers: number[] = [];
    stackFrame.forEach((of, i) => {
      const key = JSON.stringify(frames[of]);
      let at = this.frames.findIndex((one) => JSON.stringify(one) === key);
      if (at < 0) at = this.frames.push(frames[of]) - 1;
      const parent = stackParent[i] < 0 ? 0 : numbers[stackParent[i]];
      let place = this.#frames.findIndex((one, j) => one === at && this.#parents[j] === parent);
      if (place < 0) {
        this.#parents.push(parent);
        place = this.#frames.push(at) - 1;
      }
      // Numbers begin anywhere.
      numbers.push(place + 101);
    });
    return numbers;
  }

  get dictionary(): StackDictionary {
    return {
      frames: this.frames,
      stack: Int32Array.from(this.#parents, (_, i) => i + 101),
      parent: Int32Array.from(this.#parents),
      frame: Int32Array.from(this.#frames)
    };
  }
}

const bytesOf = (weights: ReadonlyMap<number, number>, numbers: readonly number[]): Uint8Array =>
  writeStackWeights(new Map([...weights].map(([stack, us]) => [numbers[stack], us])));

const totals = (profile: Profile): Map<string, [number, number]> =>
  new Map(
    functionWeights(profile.frames, profile, slice(profile)).map(({ frame: of, self, total }) => [
      profile.frames[of].name,
      [self, total]
    ])
  );

describe('a condensed recording', () => {
  it('is cut where the clock has whole slices', () => {
    const { slices } = condense(
      profileOf([
        ['a', 6000],
        ['idle', 2000],
        ['a;b', 5000]
      ]),
      START_US + 3e6
    );
    expect(slices.map(({ startUs, spanUs, busyUs, idleUs }) => [startUs, spanUs, busyUs, idleUs])).toEqual([
      [START_US + 3e6, 2e6, 2e6, 0],
      [START_US + 5e6, 5e6, 4e6, 1e6],
      [START_US + 10e6, 5e6, 4e6, 1e6],
      [START_US + 15e6, 1e6, 1e6, 0]
    ]);
    const hours = condense(profileOf([['a', 3 * 3600_000]]), START_US + 3e6);
    expect(hours.slices.length).toBe(181);
  });

  it('gives each endpoint what ran in its requests’ own time, and shares what none can be told of', () => {
    const own = (...ms: number[]): Float64Array => Float64Array.from(ms, (one) => one * MS);
    const requests: ServedRequest[] = [
      // Alone for 100 ms, then 50 ms together with the other.
      { endpoint: 1, fromNs: 0, own: own(0, 150) },
      { endpoint: 2, fromNs: 0, own: own(100, 200) },
      // Only waits.
      { endpoint: 2, fromNs: 0, own: own() },
      // Half of its own time lies after the end.
      { endpoint: 3, fromNs: 290 * MS, own: own(290, 310) }
    ];
    const { slices } = condense(
      profileOf([
        ['a', 100],
        ['b', 100],
        ['c', 100]
      ]),
      START_US,
      requests
    );
    const shares = slices[0].endpoints.map(({ endpoint, requests: served, busyUs, sharedUs }) => [
      endpoint,
      served,
      busyUs,
      sharedUs
    ]);
    expect(shares).toEqual([
      [1, 1, 125_000, 25_000],
      [2, 2, 75_000, 25_000],
      [3, 0.5, 10_000, 0]
    ]);
  });

  it('adds up to what it was made of, however it is cut and shared (property)', () => {
    const stacks = fc.array(
      fc.tuple(fc.constantFrom('a', 'a;b', 'a;b;a', 'c', 'c;b', 'idle'), fc.integer({ min: 1, max: 40_000 })),
      { minLength: 1, maxLength: 20 }
    );
    const requests = fc.array(
      fc.record({
        endpoint: fc.integer({ min: 1, max: 3 }),
        fromNs: fc.constant(0),
        own: fc
          .uniqueArray(fc.integer({ min: -1000, max: 500_000 }), { minLength: 0, maxLength: 8 })
          .map((ms) =>
            Float64Array.from(ms.sort((a, b) => a - b).slice(0, ms.length & ~1), (one) => one * MS)
          )
      }),
      { maxLength: 6 }
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(stacks, requests), { minLength: 1, maxLength: 4 }), (recordings) => {
        const store = new Store();
        const kept: Uint8Array[] = [];
        const wanted = new Map<string, [number, number]>();
        for (const [made, served] of recordings) {
          const profile = profileOf(made);
          const condensed = condense(profile, START_US + 17e6, served);
          const numbers = store.numbers(condensed);
          for (const one of condensed.slices) {
            kept.push(bytesOf(one.weights, numbers));
            const ofEndpoints = one.endpoints.reduce((sum, { busyUs }) => sum + busyUs, 0);
            // Each stack of each endpoint is rounded to a microsecond.
            expect(ofEndpoints).toBeLessThanOrEqual(one.busyUs + 20);
          }
          for (const [name, [self, total]] of totals(profile)) {
            const [s, t] = wanted.get(name) ?? [0, 0];
            wanted.set(name, [s + self, t + total]);
          }
        }
        const sums = new StackSums(store.dictionary);
        for (const bytes of kept) sums.add(bytes);
        const merged = sums.profile('cpu', 1);
        expect(totals(merged)).toEqual(wanted);
        for (const [name, [self, total]] of wanted) {
          const of = new FunctionInSums(store.dictionary, frame(name));
          const found = kept.map((bytes) => of.of(bytes));
          expect(found.reduce((sum, { selfUs }) => sum + selfUs * 1000, 0)).toBe(self);
          expect(found.reduce((sum, { totalUs }) => sum + totalUs * 1000, 0)).toBe(total);
        }
      })
    );
  });

  it('keeps what has no times as one slice of no endpoint', () => {
    const profile = { ...profileOf([['a', 10]]), durationNs: 0, recordedNs: 30e9 };
    const { slices } = condense(profile, START_US + 50e6, [
      { endpoint: 1, fromNs: 0, own: Float64Array.of(0, 1e9) }
    ]);
    expect(slices).toMatchObject([{ spanUs: 30e6, busyUs: 10_000, endpoints: [] }]);
  });

  it('keeps no stack deeper than is kept', () => {
    const deep = profileOf([[Array.from({ length: MOST_DEEP + 50 }, (_, i) => `f${i % 7}`).join(';'), 5]]);
    const { stackFrame, slices } = condense(deep, START_US);
    expect(stackFrame.length).toBe(MOST_DEEP);
    expect(slices[0].busyUs).toBe(5000);
  });
});

describe('weights of stacks', () => {
  it('are read back as they were written (property)', () => {
    fc.assert(
      fc.property(
        fc.dictionary(
          fc.integer({ min: 1, max: 2 ** 31 - 1 }).map(String),
          fc.integer({ min: 1, max: 2 ** 45 })
        ),
        (given) => {
          const weights = new Map(Object.entries(given).map(([stack, us]) => [Number(stack), us]));
          const read = new Map<number, number>();
          readStackWeights(writeStackWeights(weights), (stack, us) => read.set(stack, us));
          expect([...read].sort()).toEqual([...weights].sort());
        }
      )
    );
  });

  it('that were cut off are told as such', () => {
    const bytes = writeStackWeights(new Map([[7, 100_000]]));
    expect(() => readStackWeights(bytes.subarray(0, bytes.length - 1), () => undefined)).toThrow(
      /end within a number/
    );
  });
});

describe('coverage', () => {
  const part = (process: string, from: number, to: number, span = to - from) => ({
    process,
    startUs: from,
    lengthUs: to - from,
    spanUs: span
  });

  it('counts no moment of a process twice', () => {
    const { factors, coveredUs, processes } = coverageOf([
      part('a', 0, 10),
      part('b', 0, 10),
      part('a', 5, 15),
      part('a', 20, 30)
    ]);
    expect(coveredUs).toBe(35);
    expect(processes).toBe(2);
    expect([...factors]).toEqual([0.75, 1, 0.75, 1]);
  });

  it('takes the sums of an hour for the time they cover of it', () => {
    const { factors, coveredUs } = coverageOf([part('a', 0, 3600, 600), part('a', 3600, 3610)]);
    expect(coveredUs).toBe(610);
    expect([...factors]).toEqual([1, 1]);
  });
});
