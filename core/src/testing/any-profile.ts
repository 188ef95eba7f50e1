import fc from 'fast-check';
import type { Profile } from '../profile/model';
import { readV8CpuProfile, type V8CpuProfile } from '../profile/v8-cpu';

export interface Shape {
  /** Name and parent of each node; node 0 is the root. */
  nodes: [string, number][];
  samples: [node: number, deltaUs: number][];
  endUs?: number;
}

export function text({ nodes, samples, endUs }: Shape): string {
  const list = nodes.map(([name, parent], i) => ({
    id: i + 1,
    callFrame: {
      functionName: name,
      scriptId: '1',
      url: name.startsWith('(') ? '' : 'file:///quay/plan.js',
      lineNumber: 4,
      columnNumber: 2
    },
    parent
  }));
  const sum = samples.reduce((total, [, delta]) => total + delta, 0);
  return JSON.stringify({
    nodes: list.map(({ id, callFrame }) => ({
      id,
      callFrame,
      hitCount: 0,
      children: list.filter(({ parent }) => parent === id - 1).map((child) => child.id)
    })),
    startTime: 1000,
    endTime: 1000 + (endUs ?? sum + 1000),
    samples: samples.map(([node]) => node + 1),
    timeDeltas: samples.map(([, delta]) => delta)
  });
}
export const readBytes = (content: string): V8CpuProfile =>
  readV8CpuProfile(new TextEncoder().encode(content));
export const read = (shape: Shape): Profile => readBytes(text(shape)).profile;
/** Random stack trees with samples, idle among them. */
export const anyProfile = fc
  .record({
    nodes: fc.array(
      fc.record({
        name: fc.constantFrom('a', 'b', 'c', 'd', '(idle)', '(garbage collector)'),
        parent: fc.nat(60)
      }),
      { minLength: 1, maxLength: 60 }
    ),
    samples: fc.array(fc.tuple(fc.nat(60), fc.integer({ min: -300, max: 3000 })), {
      minLength: 1,
      maxLength: 150
    })
  })
  .map(({ nodes, samples }): Profile =>
    read({
      nodes: [
        ['(root)', -1],
        ...nodes.map(({ name, parent }, i): [string, number] => [name, parent % (i + 1)])
      ],
      samples: samples.map(([node, delta]) => [node % (nodes.length + 1), delta]),
      endUs: 500_000
    })
  );
