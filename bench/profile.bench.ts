/** From the text of a V8 CPU profile of 600,000 samples to a laid-out tree, against `JSON.parse` of the same text in the same run. */
import { performance } from 'node:perf_hooks';
import { flameLayout } from '../core/src/profile/flame-layout';
import { functionWeights, heaviestBranch } from '../core/src/profile/functions';
import { between, slice } from '../core/src/profile/slice';
import { cpuStrip } from '../core/src/profile/strip';
import { readV8CpuProfile } from '../core/src/profile/v8-cpu';
import { syntheticProfile } from './synthetic-profile';

const SAMPLES = 600_000;
const NODES = 20_000;
const FUNCTIONS = 2500;
const ROUNDS = 7;

const middle = (values: number[]): number => values.sort((a, b) => a - b)[Math.floor(values.length / 2)];
const time = (work: () => void): number => {
  const begun = performance.now();
  work();
  return performance.now() - begun;
};

const text = syntheticProfile(SAMPLES, NODES, FUNCTIONS);
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
  `  text to laid-out tree         ${middle(whole).toFixed(0)} ms   ratio ${(middle(whole) / middle(parse)).toFixed(2)}   (must reach 1.5 at most)`
);
console.log(`  table, branch and strip       ${rest.toFixed(0)} ms`);
console.log(
  `  a moved selection, weighed, laid out and tabled   p50 ${middle(reslice).toFixed(1)} ms, worst ${reslice[reslice.length - 1].toFixed(1)} ms   (must reach 16 ms)`
);

// What stays in memory of a profile, against the size of its file; names and places of its functions come on top, once each.
for (const [samples, nodes] of [
  [SAMPLES, NODES],
  [3_600_000, 40_000]
]) {
  const file = new TextEncoder().encode(syntheticProfile(samples, nodes, FUNCTIONS));
  const kept = readV8CpuProfile(file).profile;
  const bytes = Object.values(kept).reduce(
    (sum: number, value: unknown) => sum + (ArrayBuffer.isView(value) ? value.byteLength : 0),
    0
  );
  console.log(
    `  memory of ${samples} samples     ${(bytes / 1e6).toFixed(0)} MB for a file of ${(file.length / 1e6).toFixed(0)} MB   ratio ${(bytes / file.length).toFixed(2)}   (must reach 2 at most)`
  );
}
