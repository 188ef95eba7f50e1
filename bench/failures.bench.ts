/**
 * Grouping of exceptions: 200,000 exception events with stacks of 60 frames against `JSON.parse` of their text, in one run.
 * Run: npx tsx bench/failures.bench.ts
 */
import { identityKey, identityOf } from '../core/src/failures/identity';

const EVENTS = 200_000;
const ROUNDS = 5;

/** Stacks as Node.js, the JVM and Python write them; each event has values of its own, and the frames of one of 300 places. */
function event(i: number): { type: string; message: string; stack: string } {
  const place = i % 300;
  const message = `berth ${i} of "quay ${i % 77}" is taken until ${i % 24}:${10 + (i % 50)}`;
  const frames = Array.from({ length: 60 }, (_, depth) => depth);
  switch (i % 3) {
    case 0:
      return {
        type: 'BerthTaken',
        message,
        stack: `BerthTaken: ${message}\n${frames.map((d) => (d < 8 ? `    at next (/srv/node_modules/router/index.js:${d + 1}:${i % 90})` : `    at step${place}x${d} (/srv/quillhaven/berths/plan${place % 9}.js:${d}:${i % 90})`)).join('\n')}`
      };
    case 1:
      return {
        type: 'haven.berths.BerthTaken',
        message,
        stack: `haven.berths.BerthTaken: ${message}\n${frames.map((d) => (d < 8 ? `\tat java.base/java.util.ArrayList.forEach(ArrayList.java:${d + 1})` : `\tat haven.berths.Plan${place}.step${d}(Plan.java:${d})`)).join('\n')}\nCaused by: java.io.IOException: no tide at ${i}\n\tat haven.tides.Tide${place}.read(Tide.java:31)\n\t... 60 more`
      };
    default:
      return {
        type: 'BerthTaken',
        message,
        stack: `Traceback (most recent call last):\n${frames.map((d) => `  File "/srv/quillhaven/berths/plan${place % 9}.py", line ${d}, in step${place}x${d}\n    return step(${d})`).join('\n')}\nBerthTaken: ${message}`
      };
  }
}

const texts = Array.from({ length: EVENTS }, (_, i) => JSON.stringify(event(i)));
const bytes = texts.reduce((sum, { length }) => sum + length, 0);
const timed = <T>(work: () => T): { ms: number; result: T } => {
  const begun = performance.now();
  const result = work();
  return { ms: performance.now() - begun, result };
};
const ratios: number[] = [];
for (let round = 0; round < ROUNDS; round++) {
  const parsed = timed(() => texts.map((text) => JSON.parse(text) as ReturnType<typeof event>));
  const grouped = timed(() => {
    const groups = new Set<string>();
    for (const one of parsed.result) groups.add(identityKey(identityOf(one)));
    return groups.size;
  });
  ratios.push(grouped.ms / parsed.ms);
  console.log(
    `JSON.parse ${parsed.ms.toFixed(0)} ms, grouping ${grouped.ms.toFixed(0)} ms into ${grouped.result} groups: ${ratios.at(-1)!.toFixed(2)}`
  );
}
ratios.sort((a, b) => a - b);
console.log(
  `grouping ${EVENTS} exceptions (${(bytes / 1e6).toFixed(0)} MB) takes ${ratios[2].toFixed(2)} × the JSON.parse of them (${ratios[0].toFixed(2)} to ${ratios.at(-1)!.toFixed(2)}), must be at most 1.5`
);
