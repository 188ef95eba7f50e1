/** From the text of a V8 CPU profile of 600,000 samples to a laid-out tree, against `JSON.parse` of the same text in the same run. */
import { performance } from 'node:perf_hooks';
import { flameLayout } from '../core/src/profile/flame-layout';
import { functionWeights, heaviestBranch } from '../core/src/profile/functions';
import { between, slice } from '../core/src/profile/slice';
import { cpuStrip } from '../core/src/profile/strip';
import { readV8CpuProfile } from '../core/src/profile/v8-cpu';

const SAMPLES = 600_000;
const NODES = 20_000;
const FUNCTIONS = 2500;
const ROUNDS = 7;

function profileText(): string {
  let seed = 7;
  const random = (below: number): number => (seed = (seed * 1_103_515_245 + 12_345) % 2 ** 31) % below;
  const parents = Array.from({ length: NODES }, (_, i) =>
    i === 0 ? -1 : Math.max(0, i - 1 - random(Math.min(i, 40)))
  );
  const children: number[][] = parents.map(() => []);
  parents.forEach((parent, i) => parent >= 0 && children[parent].push(i + 1));
  const nodes = parents.map((_, i) => {
    const work = i % FUNCTIONS;
    return {
      id: i + 1,
      callFrame: {
        functionName: i === 0 ? '(root)' : `work${work}`,
        scriptId: String(work % 90),
        url: i === 0 ? '' : `file:///srv/quillhaven/part${work % 90}.js`,
        lineNumber: work % 400,
        columnNumber: 4
      },
      hitCount: 0,
      children: children[i]
    };
  });
  const samples = Array.from({ length: SAMPLES }, () => 1 + random(NODES));
  const timeDeltas = Array.from({ length: SAMPLES }, () => 900 + random(300));
  return JSON.stringify({ nodes, startTime: 0, endTime: SAMPLES * 1100, samples, timeDeltas });
}

const middle = (values: number[]): number => values.sort((a, b) => a - b)[Math.floor(values.length / 2)];
const time = (work: () => void): number => {
  const begun = performance.now();
  work();
  return performance.now() - begun;
};

const text = profileText();
/** A file comes as bytes: reading it includes decoding them, which the parser is not charged with. */
const content = new TextEncoder().encode(text);
const parse: number[] = [];
const whole: number[] = [];
const reslice: number[] = [];
for (let round = 0; round < ROUNDS; round++) {
  parse.push(time(() => JSON.parse(text)));
  whole.push(
    time(() => {
      const { profile } = readV8CpuProfile(content);
      const weights = slice(profile);
      flameLayout(profile, weights);
    })
  );
}
const { profile } = readV8CpuProfile(content);
const rest = time(() => {
  const weights = slice(profile);
  functionWeights(profile.frames, profile, weights);
  heaviestBranch(profile, weights);
  cpuStrip(profile, 410);
});
for (let round = 0; round < 25; round++) {
  reslice.push(time(() => slice(profile, between(round * 5e9, round * 5e9 + 400e9))));
}
console.log(`profile: ${SAMPLES} samples, ${NODES} nodes, ${(text.length / 1e6).toFixed(1)} MB of text`);
console.log(`  JSON.parse                    ${middle(parse).toFixed(0)} ms`);
console.log(
  `  text to laid-out tree         ${middle(whole).toFixed(0)} ms   ratio ${(middle(whole) / middle(parse)).toFixed(2)}   (must reach 2 at most)`
);
console.log(`  table, branch and strip       ${rest.toFixed(0)} ms`);
console.log(`  weighing a moved selection    ${middle(reslice).toFixed(1)} ms`);
