/** How fast the command line starts: `tromix inspect` of a small file against `node -e 0` by CPU time, and `tromix serve` on a folder that is there already. */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';

const ROOT = path.resolve(import.meta.dirname, '..');
const BIN = path.join(ROOT, 'dist/tromix/bin/tromix.mjs');
const SMALL = path.join(ROOT, 'workload/recordings/threads-pilots-1.txt.gz');
const ROUNDS = 7;
const PORT = 4873;

spawnSync(process.execPath, [path.join(ROOT, 'scripts/package.mjs'), '--built'], { stdio: 'ignore' });
if (!existsSync(BIN)) throw new Error('The package could not be built.');

/** CPU seconds of so many runs of a command, as its parent is told of children it has waited for (getrusage(2), by the shell's `times`). */
function cpuOf(args: string[], times: number): number {
  const command = [process.execPath, ...args].map((word) => `'${word}'`).join(' ');
  const { stdout } = spawnSync(
    'bash',
    ['-c', `for i in $(seq ${times}); do ${command} > /dev/null; done; times`],
    {
      encoding: 'utf8'
    }
  );
  const [, children] = stdout.trim().split('\n');
  return children
    .split(' ')
    .map((text) => /(\d+)m([\d.]+)s/.exec(text)!)
    .reduce((sum, [, minutes, seconds]) => sum + Number(minutes) * 60 + Number(seconds), 0);
}

const spread = (values: number[], digits: number): string => {
  const sorted = values.toSorted((a, b) => a - b);
  return `${sorted[Math.floor(sorted.length / 2)].toFixed(digits)} (${sorted[0].toFixed(digits)} to ${sorted.at(-1)!.toFixed(digits)})`;
};

const TIMES = 5;
const ratios = Array.from(
  { length: ROUNDS },
  () => cpuOf([BIN, 'inspect', SMALL], TIMES) / cpuOf(['-e', '0'], TIMES)
);
console.log(
  `tromix inspect of a small file: ${spread(ratios, 1)} × the CPU time of node -e 0, must be at most 8`
);

const folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-start-'));
/** Seconds until the server says that it listens. */
function serve(): Promise<number> {
  const begun = performance.now();
  const server = spawn(process.execPath, [BIN, 'serve', '--port', String(PORT), '--data', folder]);
  return new Promise((resolve) => {
    server.stdout.on('data', (text: Buffer) => {
      if (!text.toString().includes('listens')) return;
      const seconds = (performance.now() - begun) / 1000;
      server.once('exit', () => resolve(seconds));
      server.kill('SIGTERM');
    });
  });
}
await serve();
const starts: number[] = [];
for (let round = 0; round < ROUNDS; round++) starts.push(await serve());
console.log(`tromix serve on an existing folder listens after ${spread(starts, 2)} s, must be within 2 s`);
rmSync(folder, { recursive: true, force: true });
