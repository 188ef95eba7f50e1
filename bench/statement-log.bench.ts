/**
 * Memory while a log of 3 GB is read as it comes. What must hold: at most 300 MB. And its rate against splitting the same text into lines, in one
 * run. The text is a recorded log over and over, its literals changed.
 */
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { readStatementLog, readStatementStream } from '../core/src/calls/statement-log/read';

const LOG = path.join(import.meta.dirname, '../recordings/statements/pg-stderr-default.log.gz');
const text = gunzipSync(readFileSync(LOG)).toString();
const TOTAL = Number(process.env.LOG_BYTES ?? 3 * 1024 ** 3);
const MOST = 300;
const PART = 64 * 1024;

let mostRss = 0;
async function* parts(): AsyncGenerator<Uint8Array> {
  let sent = 0;
  for (let round = 0; sent < TOTAL; round++) {
    const bytes = Buffer.from(text.replaceAll('vessel = $1', `vessel = ${round}`));
    for (let at = 0; at < bytes.length; at += PART) yield bytes.subarray(at, at + PART);
    sent += bytes.length;
    if (round % 50 === 0) {
      mostRss = Math.max(mostRss, process.memoryUsage().rss);
      await new Promise((resolve) => setImmediate(resolve));
    }
  }
}

const began = performance.now();
const { statements } = await readStatementStream(parts(), 'postgresql-stderr');
const seconds = (performance.now() - began) / 1000;
console.log(
  `${(TOTAL / 1024 ** 3).toFixed(1)} GB, ${statements} executions, ${seconds.toFixed(0)} s; most memory ${(mostRss / 1024 ** 2).toFixed(0)} MB (must: ${MOST})`
);

const big = text.repeat(60);
const ratios = Array.from({ length: 5 }, () => {
  const split = performance.now();
  let lines = 0;
  for (const line of big.split('\n')) lines += line.length > 0 ? 1 : 0;
  const read = performance.now();
  readStatementLog(big, 'postgresql-stderr');
  return (performance.now() - read) / (read - split) + 0 * lines;
}).sort((a, b) => a - b);
console.log(
  `reading takes ${ratios[2].toFixed(1)} (${ratios[0].toFixed(1)}–${ratios[4].toFixed(1)}) × splitting into lines`
);
if (mostRss > MOST * 1024 ** 2) process.exitCode = 1;
