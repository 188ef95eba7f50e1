/**
 * Reading a thread dump of 10,000 threads with 60 frames each, against splitting the same text into lines; and what follows: who
 * waits for whom, findings, the picture. Prints the medians of rounds taken in turns.
 */
import { performance } from 'node:perf_hooks';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { findInThreads, threadContext } from '../core/src/findings/thread-findings';
import { median } from '../core/src/stats/percentile';
import { readJvmText } from '../core/src/threads/jvm-text';
import { waitsPicture } from '../core/src/threads/picture';
import { queueDump } from './queue-dump';

const THREADS = 10_000;
const FRAMES = 60;
const ROUNDS = 7;
const QUEUE = 5000;

const text = queueDump(THREADS, FRAMES, QUEUE);
// What one measurement leaves behind must not be cleared up in the time of the next.
setFlagsFromString('--expose-gc');
const clearUp = runInNewContext('gc') as () => void;
const time = (work: () => unknown): number => {
  clearUp();
  const begun = performance.now();
  work();
  return performance.now() - begun;
};

const split: number[] = [];
const read: number[] = [];
for (let round = 0; round < ROUNDS; round++) {
  split.push(time(() => text.split('\n').length));
  read.push(time(() => readJvmText(text)));
}
const { series } = readJvmText(text);
const context = threadContext(series, 0);
const found = time(() => findInThreads(threadContext(series, 0)));
const drawn = time(() =>
  waitsPicture(series.frames, series.dumps[0], context.waits[0], new Set(['http-worker-*']))
);
console.log(
  `${THREADS} threads, ${FRAMES} frames each, ${(text.length / 1e6).toFixed(1)} MB of text, ${series.frames.length} distinct frames`
);
console.log(`  splitting into lines     ${median(split).toFixed(0)} ms`);
console.log(`  reading the dump         ${median(read).toFixed(0)} ms`);
console.log(`  ratio (at most 3)        ${(median(read) / median(split)).toFixed(2)}`);
console.log(`  who waits, findings      ${found.toFixed(0)} ms`);
console.log(`  picture of ${QUEUE} waiting ${drawn.toFixed(0)} ms`);
