import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import type { Crash } from '@tromix/core/crashes/crash';
import { readProcessEnd } from '@tromix/core/crashes/process-end';
import { crashSentence } from '@tromix/core/crashes/reading';
import { recognise } from '@tromix/core/formats/recognise';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';

const ROOT = path.resolve(import.meta.dirname, '../../..');
const BIN = path.join(ROOT, 'cli/bin/tromix.mjs');
const LEFT = JSON.parse(
  gunzipSync(readFileSync(path.join(ROOT, 'recordings/crashes/crashes.json.gz'))).toString()
) as Record<string, { stderr: string; report?: string }>;
let folder: string;
let server: http.Server;
let to: string;
const got: { query: URLSearchParams; body: Buffer; authorization: string }[] = [];

beforeAll(async () => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-crash-'));
  execFileSync('npm', ['run', 'build', '-w', 'run', '--silent'], { cwd: ROOT, stdio: 'ignore' });
  server = http.createServer((request, answer) => {
    const parts: Buffer[] = [];
    request.on('data', (part: Buffer) => parts.push(part));
    request.on('end', () => {
      const url = new URL(request.url!, 'http://x');
      if (url.pathname === '/api/evidence')
        got.push({
          query: url.searchParams,
          body: Buffer.concat(parts),
          authorization: request.headers.authorization ?? ''
        });
      answer.writeHead(201).end('{}');
    });
  });
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  to = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true, force: true });
});
beforeEach(() => void (got.length = 0));

interface Ran {
  code: number | null;
  signal: NodeJS.Signals | null;
  error: string;
}
function run(
  options: string[],
  command: string[],
  during?: (pid: number, out: string) => void,
  waitsFor = 'close'
): Promise<Ran> {
  const child = spawn(
    process.execPath,
    [BIN, 'run', '--to', to, '--service', 'berths', ...options, '--', ...command],
    {
      cwd: folder,
      env: { ...process.env, TROMIX_INGEST_TOKEN: 'sixteen-letters-' }
    }
  );
  let [out, error] = ['', ''];
  child.stdout.on('data', (part: Buffer) => {
    out += part.toString();
    during?.(child.pid!, out);
  });
  child.stderr.on('data', (part: Buffer) => (error += part.toString()));
  return new Promise((resolve) =>
    child.once(waitsFor, (code: number | null, signal: NodeJS.Signals | null) =>
      resolve({ code, signal, error })
    )
  );
}
const program = (name: string, text: string): string => {
  const file = path.join(folder, name);
  writeFileSync(file, text);
  return file;
};
const crashes = (): Crash[] =>
  got
    .filter(({ query }) => query.get('name') === 'process-end.json')
    .map(({ body }) => readProcessEnd(body.toString()));

it('hands over an exception that nobody caught: its stack and causes, memory, last lines, exit code', async () => {
  const file = program(
    'throws.cjs',
    `class BerthTaken extends Error { name = 'BerthTaken' }
function reserve(n) { throw new BerthTaken('berth ' + n + ' is taken', { cause: new TypeError('no line') }); }
console.error('about to reserve');
setTimeout(() => reserve(3), 60);
`
  );
  const { code, error } = await run(['--keep-days', '3'], [process.execPath, file, '--secret=hush']);
  expect(code).toBe(1);
  expect(error).not.toContain('report');
  expect(got[0].query.get('service')).toBe('berths');
  expect(got[0].query.get('keepDays')).toBe('3');
  expect(got[0].query.get('host')).toBe(os.hostname());
  expect(got[0].authorization).toBe('Bearer sixteen-letters-');
  const [crash] = crashes();
  expect(crash).toMatchObject({
    cause: 'exception',
    exitCode: 1,
    thread: 'main',
    runtime: `Node.js ${process.version}`
  });
  expect(crash.exception!.stack).toContain('[cause]: TypeError: no line');
  expect(crashSentence(crash)).toMatch(/^Nobody caught BerthTaken: berth 3 is taken, thrown in .*reserve/);
  expect(crash.lastLines[0]).toBe('about to reserve');
  expect(crash.uptimeMs).toBeGreaterThan(50);
  expect(crash.memory.length).toBeGreaterThan(2);
  // Arguments and the environment may hold secrets.
  expect(got[0].body.toString()).not.toContain('hush');
  expect(got[0].body.toString()).not.toContain('sixteen-letters');
});

it('hands over what ran out of memory, with as many heap dumps as were asked for', async () => {
  const file = program(
    'fills.cjs',
    'const kept = []; setTimeout(() => { for (;;) kept.push(new Array(500).fill(kept.length + 0.5)); }, 60);\n'
  );
  await run(['--heap-dumps', '1'], [process.execPath, '--max-old-space-size=24', file]);
  const [crash] = crashes();
  expect(crash).toMatchObject({ cause: 'memory', signal: 'SIGABRT' });
  expect(crashSentence(crash)).toMatch(/^It ran out of memory: its heap held .* of at most/);
  const dumps = got.filter(({ query }) => query.get('name')!.endsWith('.heapsnapshot'));
  expect(dumps).toHaveLength(1);
  expect(recognise(dumps[0].body).kind).toBe('heap');
  expect(Number(dumps[0].query.get('pid'))).toBe(crash.pid);
}, 60_000);

it('names the functions of a recursion, and what a process below it died of', async () => {
  const file = program(
    'deep.cjs',
    'function visit(n) { return leave(n + 1) + 1; }\nfunction leave(n) { return visit(n) + 1; }\nsetTimeout(() => visit(0), 20);\n'
  );
  const parent = program(
    'parent.cjs',
    `require('child_process').spawn(process.execPath, [${JSON.stringify(file)}], { stdio: 'ignore' }).on('exit', () => setTimeout(() => {}, 2500));`
  );
  expect((await run([], [process.execPath, parent])).code).toBe(0);
  const [crash] = crashes();
  expect(crash).toMatchObject({ cause: 'recursion', exitCode: null });
  expect(crashSentence(crash)).toMatch(
    /(?:visit → leave → visit|leave → visit → leave) call each other without end/
  );
}, 30_000);

it('hands over a signal that nobody sent through it, and what other runtimes wrote', async () => {
  const dies = await run([], ['sh', '-c', 'echo before >&2; kill -SEGV $$']);
  expect(dies.signal).toBe('SIGSEGV');
  expect(crashes()).toMatchObject([{ cause: 'signal', signal: 'SIGSEGV', lastLines: ['before'] }]);
  got.length = 0;
  // What a Python 3.11 and a JVM 17 wrote as they ended: see recordings/crashes.
  const python = program('python.txt', LEFT['python-throw'].stderr);
  await run([], ['sh', '-c', `cat ${python} >&2; exit 1`]);
  expect(crashes()).toMatchObject([
    { cause: 'exception', runtime: 'Python', exception: { type: 'NoPilot', message: 'no pilot for call 7' } }
  ]);
  got.length = 0;
  const jvm = program('hs_err.txt', LEFT['jvm-crash'].report!);
  await run([], ['sh', '-c', `cat ${jvm} > hs_err_pid$$.log; kill -ABRT $$`]);
  expect(crashes()).toMatchObject([
    { cause: 'signal', thread: 'main', runtime: expect.stringMatching(/^JVM 17/) }
  ]);
  // Its environment stays where it is.
  expect(LEFT['jvm-crash'].report).toContain('Environment Variables:');
  expect(got[0].body.toString()).not.toContain('Environment Variables:');
});

it('is silent where a program ends as it wants, or as somebody asks', async () => {
  await run([], ['sh', '-c', 'echo usage: … >&2; exit 1']);
  await run([], ['sh', '-c', 'exit 0']);
  const asked = await run(
    [],
    [process.execPath, '-e', "console.log('up'); setInterval(() => {}, 1000)"],
    (pid, out) => {
      if (out === 'up\n') process.kill(pid, 'SIGTERM');
    }
  );
  expect(asked.signal).toBe('SIGTERM');
  expect(got).toEqual([]);
});

it('leaves nothing behind, ends alike with nobody listening, and passes the standard error on byte for byte', () => {
  const before = readdirSync(os.tmpdir()).filter((name) => name.startsWith('tromix-run-'));
  const bytes =
    'process.stderr.write(Buffer.from([0, 255, 10, 13, 65])); process.stderr.write("x".repeat(3e6)); process.exit(9)';
  // To a file, as start scripts do: what is written to one is there when a program ends.
  const file = path.join(folder, 'stderr.txt');
  const words = [
    process.execPath,
    BIN,
    'run',
    '--to',
    'http://127.0.0.1:9',
    '--',
    process.execPath,
    '-e',
    bytes
  ];
  const { status } = spawnSync('sh', ['-c', `"$@" 2>${file}`, 'sh', ...words], { cwd: folder });
  const stderr = readFileSync(file);
  expect(status).toBe(9);
  expect(stderr.length).toBe(3_000_005);
  expect([...stderr.subarray(0, 5)]).toEqual([0, 255, 10, 13, 65]);
  const after = readdirSync(os.tmpdir()).filter((name) => name.startsWith('tromix-run-'));
  expect(after).toEqual(before);
});

it('does not wait for what a program leaves running', async () => {
  const began = Date.now();
  await run([], ['sh', '-c', 'sleep 8 >/dev/null & exit 0'], undefined, 'exit');
  expect(Date.now() - began).toBeLessThan(7000);
}, 20_000);

it('reads the last lines from the file that the standard error goes to', async () => {
  const throws = program(
    'throws-to-file.cjs',
    "console.error('about to moor'); throw new RangeError('quay 4 is full');"
  );
  const child = spawn(
    'sh',
    [
      '-c',
      `echo earlier > err.txt; "$@" 2>>err.txt`,
      'sh',
      process.execPath,
      BIN,
      'run',
      '--to',
      to,
      '--',
      process.execPath,
      throws
    ],
    { cwd: folder }
  );
  await new Promise((done) => child.once('close', done));
  expect(crashes()[0].lastLines[0]).toBe('about to moor');
});
