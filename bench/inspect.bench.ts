/**
 * `tromix inspect` of large heap dumps: its memory against the file, above what the command takes for no dump at all, and what a long list
 * costs against a short one. Each run in a process of its own, in turns. `HEAP=small` takes dumps of a tenth.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { performance } from 'node:perf_hooks';
import { javaDump, snapshotDump } from './fill-heap';

const MB = 1024 * 1024;
const CLI = path.resolve(import.meta.dirname, '../cli/bin/tromix.mjs');
const ROUNDS = 3;
const part = process.env.HEAP === 'small' ? 0.1 : 1;

interface Run {
  ms: number;
  /** Memory of the process at its most, bytes. */
  peak: number;
}

/** Linux tells the most memory a process took as long as it runs. */
function peakOf(pid: number): number {
  try {
    return Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) * 1024;
  } catch {
    return 0;
  }
}

function inspect(file: string, top: number): Promise<Run> {
  const begun = performance.now();
  const child = spawn(process.execPath, [CLI, 'inspect', '--json', '--top', String(top), file], {
    stdio: ['ignore', 'ignore', 'inherit']
  });
  let peak = 0;
  const watch = setInterval(() => (peak = Math.max(peak, peakOf(child.pid!))), 10);
  return new Promise((resolve) =>
    child.once('exit', () => {
      clearInterval(watch);
      resolve({ ms: performance.now() - begun, peak });
    })
  );
}

const sorted = (list: number[]): number[] => list.toSorted((a, b) => a - b);
const spread = (list: number[], digits = 2): string => {
  const all = sorted(list);
  return `${all[all.length >> 1].toFixed(digits)} (${all[0].toFixed(digits)} to ${all.at(-1)!.toFixed(digits)})`;
};

const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-inspect-bench-'));
try {
  const none = path.join(folder, 'none.txt');
  writeFileSync(none, 'main;plan 1\n');
  const dumps: [string, string, number][] = [
    ['HPROF', javaDump(folder, Math.round(1_200_000 * part)), 1],
    ['V8 snapshot', snapshotDump(path.join(folder, 'fill.heapsnapshot'), Math.round(1_500_000 * part)), 0.6]
  ];
  for (const [what, file, most] of dumps) {
    const size = statSync(file).size;
    const [above, whole, long, times]: number[][] = [[], [], [], []];
    for (let round = 0; round < ROUNDS; round++) {
      const base = await inspect(none, 20);
      const short = await inspect(file, 20);
      const longer = await inspect(file, 5000);
      above.push((short.peak - base.peak) / size);
      whole.push(short.peak / size);
      long.push(longer.ms / short.ms);
      times.push(short.ms / 1000);
    }
    console.log(`inspect of ${what}, ${(size / MB).toFixed(0)} MB: ${spread(times, 1)} s`);
    console.log(
      `  memory against the file (at most ${most})  ${spread(above)}; the process as a whole ${spread(whole)}`
    );
    console.log(`  --top 5000 against --top 20 (at most 1.2)  ${spread(long)}`);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
