/**
 * Heap dumps. A V8 snapshot of about 200 MB: parse, dominators and retained sizes against `JSON.parse` of the same text, and the
 * memory it takes; one of over 600 MB, which no string holds; an HPROF dump of about 400 MB against one pass that reads and sums
 * its bytes; a chain of 2,000,000. Each in a process of its own, so that memory is its own. `HEAP=small` leaves the largest out.
 */
import { SERVER_ENV } from '../web/server-env.mjs';
import { fork } from 'node:child_process';
import { fstatSync, mkdtempSync, openSync, readFileSync, readSync, rmSync, statSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { buildHeapIndex } from '../core/src/heap/build-index';
import { heapFormat } from '../core/src/heap/heap-format';
import type { ByteSource } from '../core/src/heap/byte-source';
import { ColumnFiles } from '../web/src/lib/server/heap/index-files';
import { reclaim } from '../web/src/lib/server/reclaim';
import { javaDump, snapshotDump } from './fill-heap';

const MB = 1024 * 1024;
const [task, file] = process.argv.slice(2);

/** Memory of the process at its most, bytes. */
const peak = (): number => process.resourceUsage().maxRSS * 1024;

function source(handle: number): ByteSource {
  return {
    length: fstatSync(handle).size,
    read: (offset, into) => readSync(handle, into, 0, into.length, offset)
  };
}

function tell(figures: object): void {
  process.send!(figures);
}

const TASKS: Record<string, () => void> = {
  index() {
    const handle = openSync(file, 'r');
    const head = new Uint8Array(1024);
    readSync(handle, head, 0, 1024, 0);
    const before = process.memoryUsage().rss;
    const begun = performance.now();
    const marks: [string, number][] = [];
    // Columns go to files, as on the server.
    const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-index-'));
    const columns = new ColumnFiles(folder);
    const meta = buildHeapIndex(source(handle), heapFormat(head)!, columns, {
      onprogress: (doing) => marks.at(-1)?.[0] !== doing && marks.push([doing, performance.now() - begun]),
      reclaim
    });
    columns.close();
    const ms = performance.now() - begun;
    rmSync(folder, { recursive: true });
    tell({ ms, objects: meta.count, references: meta.references, memory: peak() - before, marks });
  },
  parse() {
    const text = readFileSync(file, 'latin1');
    const begun = performance.now();
    JSON.parse(text);
    tell({ ms: performance.now() - begun });
  },
  sum() {
    const handle = openSync(file, 'r');
    const buffer = new Uint8Array(4 * MB);
    const begun = performance.now();
    let sum = 0;
    for (let got = readSync(handle, buffer); got > 0; got = readSync(handle, buffer))
      for (let i = 0; i < got; i++) sum += buffer[i];
    tell({ ms: performance.now() - begun, sum });
  }
};

interface Figures {
  ms: number;
  objects: number;
  references: number;
  memory: number;
  marks: [string, number][];
}
function run(name: string, of: string): Promise<Figures> {
  return new Promise((resolve, reject) => {
    const child = fork(import.meta.filename, [name, of], {
      // As the server runs.
      env: { ...process.env, ...SERVER_ENV },
      execArgv: ['--import', 'tsx', '--max-old-space-size=8192']
    });
    child.once('message', (figures) => resolve(figures as Figures));
    child.once('exit', (code) => reject(new Error(`The task ${name} ended with ${code}.`)));
  });
}

const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-heap-bench-'));

async function main(): Promise<void> {
  const small = snapshotDump(path.join(folder, 'small.heapsnapshot'), 480_000);
  await compare('V8 snapshot', small, 'parse', 'JSON.parse of the same file', 1, 0.6);
  if (process.env.HEAP !== 'small') {
    const large = snapshotDump(path.join(folder, 'large.heapsnapshot'), 1_500_000);
    const figures = await run('index', large);
    const size = statSync(large).size;
    console.log(
      `V8 snapshot of ${(size / MB).toFixed(0)} MB (over 600): indexed in ${(figures.ms / 1000).toFixed(1)} s, memory ${(figures.memory / size).toFixed(2)} × the file`
    );
  }
  const hprof = javaDump(folder, 1_500_000);
  await compare('HPROF', hprof, 'sum', 'one pass that sums its bytes', 8, 1);
  rmSync(folder, { recursive: true });
}

async function compare(
  what: string,
  of: string,
  other: string,
  words: string,
  most: number,
  memory: number
): Promise<void> {
  const size = statSync(of).size;
  const ours: number[] = [];
  const theirs: number[] = [];
  let figures!: Figures;
  for (let round = 0; round < 3; round++) {
    figures = await run('index', of);
    // Up to retained sizes of objects, classes and packages; ways from roots and files come after.
    ours.push(figures.marks.find(([doing]) => doing === 'paths from roots')![1]);
    theirs.push((await run(other, of)).ms);
  }
  const middle = (list: number[]): number => list.sort((a, b) => a - b)[1];
  console.log(
    `${what} of ${(size / MB).toFixed(0)} MB, ${figures.objects} objects, ${figures.references} references`
  );
  console.log(
    `  read, dominators, retained in ${(middle(ours) / 1000).toFixed(2)} s; ${words}: ${(middle(theirs) / 1000).toFixed(2)} s`
  );
  console.log(`  ratio (at most ${most})            ${(middle(ours) / middle(theirs)).toFixed(2)}`);
  console.log(`  memory (at most ${memory} × the file) ${(figures.memory / size).toFixed(2)}`);
  console.log(
    `  ${figures.marks.map(([doing, at]) => `${doing} from ${(at / 1000).toFixed(2)} s`).join(', ')}`
  );
}

if (task) TASKS[task]();
else await main();
