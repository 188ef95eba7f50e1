import type { Frame, Profile } from '../core/src/profile/model';
import { StackBuilder } from '../core/src/profile/stack-builder';

/** Functions of a service, and stacks it is met in: few beginnings, many ends, most of the time in a few. */
const FUNCTIONS = 1500;
const STACKS = 600;
const DEPTH = 24;

const frames: Frame[] = [
  { name: '(root)', file: '', line: 0, column: 0, package: '', kind: 'root' },
  { name: '(idle)', file: '', line: 0, column: 0, package: '', kind: 'idle' },
  ...Array.from({ length: FUNCTIONS }, (_, i): Frame => ({
    name: `work${i}`,
    file: `file:///srv/quillhaven/part${i % 90}.js`,
    line: (i % 400) + 1,
    column: 5,
    package: '',
    kind: i % 4 === 0 ? 'dependency' : 'app'
  }))
];
const builder = new StackBuilder(0);
const idle = builder.child(0, 1);
let seed = 7;
const random = (): number => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
const ends = Array.from({ length: STACKS }, () => {
  let at = 2 + Math.floor(random() * 6);
  let node = 0;
  for (let depth = 0; depth < DEPTH; depth++) {
    node = builder.child(node, at);
    at = 2 + ((at * 7 + Math.floor(random() ** 4 * 5)) % FUNCTIONS);
  }
  return node;
});
const tree = builder.tree(frames.length);

/** A recording of such a service, half of its time idle. */
export function serviceProfile(samples: number, intervalUs: number): Profile {
  const nodes = Int32Array.from({ length: samples }, () =>
    random() < 0.5 ? idle : ends[Math.floor(random() ** 5 * STACKS)]
  );
  return {
    valueType: 'cpu',
    unit: 'nanoseconds',
    frames,
    ...tree,
    sampleNode: nodes,
    sampleTime: Float64Array.from({ length: samples }, (_, i) => i * intervalUs * 1000),
    sampleWeight: new Float64Array(samples).fill(intervalUs * 1000),
    sampleThread: null,
    threads: ['main'],
    durationNs: samples * intervalUs * 1000,
    ticks: null
  };
}
