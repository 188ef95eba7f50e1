/**
 * Reads a protobuf profile of 50 MB (inflated) into stacks, against inflating and decoding the same bytes with protobufjs alone.
 * Prints the ratio of each round of one run, and their spread.
 */
import { gunzipSync, gzipSync } from 'node:zlib';
import protobuf from 'protobufjs';
import { readProtobufProfile } from '../core/src/profile/protobuf/read';
import { slice } from '../core/src/profile/slice';
import { PROFILE_SCHEMA } from '../core/src/testing/profile-message';

const ROUNDS = 3;
const SAMPLES = 420_000;
const FUNCTIONS = 6000;
const DEPTH = 28;

const Message = protobuf.parse(PROFILE_SCHEMA).root.lookupType('Profile');

/** Stacks as programs have them: few beginnings, many ends. */
function made(): Uint8Array {
  let seed = 17;
  const random = (): number => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
  const texts = ['', 'samples', 'count', 'cpu', 'nanoseconds', 'endpoint'];
  const text = (value: string): number => texts.push(value) - 1;
  const files = Array.from({ length: 300 }, (_, i) => text(`/srv/harbour/quay${i}/plan.go`));
  const functions = Array.from({ length: FUNCTIONS }, (_, i) => ({
    id: i + 1,
    name: text(`quay${i % 300}.(*Plan).step${i}`),
    filename: files[i % 300],
    startLine: i
  }));
  const locations = Array.from({ length: FUNCTIONS * 4 }, (_, i) => ({
    id: i + 1,
    mappingId: 1,
    address: 4_000_000 + i * 64,
    line: [{ functionId: (i % FUNCTIONS) + 1, line: (i % 900) + 1 }]
  }));
  const endpoints = Array.from({ length: 40 }, (_, i) => text(`/calls/${i}`));
  const sample = Array.from({ length: SAMPLES }, () => {
    const path: number[] = [];
    let at = Math.floor(random() * 12);
    for (let depth = 0; depth < DEPTH; depth++) {
      path.push(at + 1);
      at = (at * 7 + 1 + Math.floor(random() ** 6 * 5)) % locations.length;
    }
    return {
      locationId: path.reverse(),
      value: [1, 10_000_000],
      label: [{ key: 5, str: endpoints[Math.floor(random() * endpoints.length)] }]
    };
  });
  return Message.encode(
    Message.fromObject({
      sampleType: [
        { type: 1, unit: 2 },
        { type: 3, unit: 4 }
      ],
      sample,
      mapping: [{ id: 1 }],
      location: locations,
      function: functions,
      stringTable: texts
    })
  ).finish();
}

const bytes = made();
const zipped = gzipSync(bytes);
console.log(
  `${(bytes.length / 1e6).toFixed(1)} MB inflated, ${(zipped.length / 1e6).toFixed(1)} MB as it is stored.`
);
const timed = (work: () => void): number => {
  const begun = performance.now();
  work();
  return performance.now() - begun;
};
let sum = 0;
const ratios: number[] = [];
for (let round = 0; round < ROUNDS; round++) {
  const read = timed(() => (sum = slice(readProtobufProfile(gunzipSync(zipped)).profile).sum));
  const decoded = timed(() => Message.decode(gunzipSync(zipped)));
  ratios.push(read / decoded);
  console.log(
    `read ${read.toFixed(0)} ms, inflated and decoded ${decoded.toFixed(0)} ms: ${(read / decoded).toFixed(2)}`
  );
}
if (sum !== SAMPLES * 10_000_000) throw new Error(`The stacks weigh ${sum}.`);
ratios.sort((a, b) => a - b);
console.log(
  `Reading takes ${ratios[ROUNDS >> 1].toFixed(2)} times as long (${ratios[0].toFixed(2)} to ${ratios.at(-1)!.toFixed(2)}; at most 1.5).`
);
