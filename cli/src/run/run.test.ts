import { execFile, execFileSync, fork, spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { runEnvironment } from './environment';

const ROOT = path.resolve(import.meta.dirname, '../../..');
const BIN = path.join(ROOT, 'cli/bin/tromix.mjs');
const BOARD = {
  name: '@quay/board',
  version: '2.1.0',
  revision: 'abc1234',
  branch: 'main',
  repository: 'https://quay.example/board.git'
};
const PRELOAD = { preload: '/opt/the tools/x.cjs' };
let folder: string;

beforeAll(() => {
  folder = mkdtempSync(path.join(os.tmpdir(), 'tromix-run-'));
  execFileSync('npm', ['run', 'build', '-w', 'run', '--silent'], { cwd: ROOT, stdio: 'ignore' });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('the environment of a program that is run', () => {
  it('names the service, its release and its revision by the folder it is in', () => {
    const set = runEnvironment({}, BOARD, PRELOAD);
    expect(set).toMatchObject({
      OTEL_EXPORTER_OTLP_ENDPOINT: 'http://127.0.0.1:4380',
      OTEL_SERVICE_NAME: 'board',
      OTEL_RESOURCE_ATTRIBUTES:
        'service.version=2.1.0%2Babc1234,vcs.ref.head.revision=abc1234,vcs.ref.head.name=main,vcs.repository.url.full=https%3A%2F%2Fquay.example%2Fboard.git',
      NODE_OPTIONS: '--require "/opt/the tools/x.cjs" --inspect-publish-uid=http'
    });
  });

  it('leaves what is set, and lets an option win', () => {
    const env = {
      OTEL_SERVICE_NAME: 'quay',
      OTEL_RESOURCE_ATTRIBUTES: 'service.version=9,team=pilots',
      NODE_OPTIONS: '--max-old-space-size=64'
    };
    const set = runEnvironment(env, BOARD, PRELOAD);
    expect(set.OTEL_SERVICE_NAME).toBeUndefined();
    expect(set.OTEL_RESOURCE_ATTRIBUTES).toMatch(/^service\.version=9,team=pilots,/);
    expect(set.NODE_OPTIONS).toMatch(/^--max-old-space-size=64 --require /);
    const asked = runEnvironment(env, BOARD, {
      ...PRELOAD,
      service: 'berths',
      release: '3',
      to: 'http://quay:1'
    });
    expect(asked).toMatchObject({
      OTEL_SERVICE_NAME: 'berths',
      OTEL_EXPORTER_OTLP_ENDPOINT: 'http://quay:1'
    });
    expect(asked.OTEL_RESOURCE_ATTRIBUTES).toMatch(/^service\.version=3,/);
  });

  it('carries the token of the server, where the environment has one', () => {
    expect(runEnvironment({ TROMIX_INGEST_TOKEN: 'sixteen-letters-' }, BOARD, PRELOAD)).toMatchObject({
      OTEL_EXPORTER_OTLP_HEADERS: 'authorization=Bearer%20sixteen-letters-'
    });
  });
});

/** Without the frames of Node’s own loader: how many there are differs from run to run. */
const ownLines = (text: string): string =>
  text
    .split('\n')
    .filter((line) => !/^\s+at .*\(node:internal\//.test(line))
    .join('\n');

describe('tromix run', () => {
  const program = (name: string, text: string): string => {
    const file = path.join(folder, name);
    writeFileSync(file, text);
    return file;
  };
  const run = (...words: string[]): Promise<{ code: number | null; out: string; error: string }> =>
    new Promise((resolve) => {
      const child = execFile(process.execPath, [BIN, 'run', ...words], { cwd: folder }, (_, out, error) =>
        resolve({ code: child.exitCode, out, error })
      );
    });

  it('passes arguments, exit code and streams through byte for byte, with nobody listening', async () => {
    const file = program(
      'echo.cjs',
      "process.stdout.write(JSON.stringify(process.argv.slice(2))); process.stderr.write('aside'); process.exitCode = 7;"
    );
    const words = ['--json', 'a b', '', '“quay”', '--', '-x'];
    const { code, out, error } = await run('--', process.execPath, file, ...words);
    expect({ code, out, error }).toEqual({ code: 7, out: JSON.stringify(words), error: 'aside' });
  });

  it.each(['cjs', 'mjs'])('does not change what an error of a program says (%s)', async (kind) => {
    const file = program(`fails.${kind}`, 'function sink() {\n  throw new Error("sunk");\n}\nsink();\n');
    const plain = await new Promise<string>((resolve) =>
      execFile(process.execPath, [file], { cwd: folder }, (_, __, error) => resolve(error))
    );
    const { code, error } = await run('--', process.execPath, file);
    expect(code).toBe(1);
    expect(ownLines(error)).toBe(ownLines(plain));
  });

  it('passes a signal on, and ends as the program ended', async () => {
    const file = program(
      'waits.cjs',
      "process.on('SIGTERM', () => { console.log('bye'); process.exit(3); }); setInterval(() => {}, 1000); console.log('up');"
    );
    const child = spawn(process.execPath, [BIN, 'run', '--', process.execPath, file], { cwd: folder });
    let out = '';
    child.stdout.on('data', (text: Buffer) => {
      out += text.toString();
      if (out === 'up\n') child.kill('SIGTERM');
    });
    const code = await new Promise((resolve) => child.once('close', resolve));
    expect({ code, out }).toEqual({ code: 3, out: 'up\nbye\n' });
  });

  it('passes messages of whoever forked it on to the program, and its answers back', async () => {
    const file = program(
      'talks.cjs',
      "process.on('message', (n) => { process.send(n + 1); process.disconnect(); });"
    );
    const child = fork(BIN, ['run', '--', process.execPath, file], { cwd: folder, stdio: 'ignore' });
    child.send(41);
    expect(await new Promise((resolve) => child.once('message', resolve))).toBe(42);
    expect(await new Promise((resolve) => child.once('close', resolve))).toBe(0);
  });

  it('says that there is no such command, as a shell does', async () => {
    const { code, error } = await run('--', 'no-such-command');
    expect(code).toBe(127);
    expect(error).toBe('tromix: there is no command no-such-command.\n');
  });

  it('prints what it would set, as a shell reads it', async () => {
    const { code, out } = await run('--print', '--service', "the board's", '--', 'node', 'x.js');
    expect(code).toBe(0);
    expect(out).toContain("export OTEL_SERVICE_NAME='the board'\\''s'\n");
    expect(out).toMatch(
      /^export NODE_OPTIONS='--require ".*preload-inspect\.cjs" --inspect-publish-uid=http'$/m
    );
  });
});
