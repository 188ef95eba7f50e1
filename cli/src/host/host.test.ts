import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import os from 'node:os';
import path from 'node:path';
import { spawn } from 'node:child_process';
import { decodeMetricsJson } from '@tromix/core/formats/otlp/metrics';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { CoreWaits } from './core-waits';
import { HostReader } from './host-reader';
import { readProcess } from './linux-processes';
import { metricsRequest } from './otlp-metrics';
import type { Told } from './measures';
import { ProcFiles } from './proc-files';

const isLinux = process.platform === 'linux';
const value = (told: Told, name: string, ...of: string[]): number =>
  told.measures.find(
    (measure) => measure.name === name && of.every((one) => Object.values(measure.attributes).includes(one))
  )?.value ?? NaN;

describe.runIf(isLinux)('what this machine tells', () => {
  it('is what /proc says at the same moment', async () => {
    const reader = new HostReader('quay-1', 20);
    const [host] = await reader.read(Date.now());
    const cores = os.cpus();
    expect(value(host, 'system.cpu.logical.count')).toBe(cores.length);
    expect(value(host, 'system.memory.limit')).toBe(os.totalmem());
    // Node.js reads the same counters, in its own way (`uv_cpu_info`).
    for (const [mode, name] of [
      ['user', 'user'],
      ['idle', 'idle'],
      ['system', 'sys']
    ] as const) {
      const seconds = cores.reduce((sum, { times }) => sum + times[name], 0) / 1000;
      expect(value(host, 'system.cpu.time', mode)).toBeLessThanOrEqual(seconds + 0.5);
      expect(value(host, 'system.cpu.time', mode)).toBeGreaterThan(seconds - 5);
    }
    const used = value(host, 'system.memory.usage', 'used');
    expect(used).toBeGreaterThan(0);
    expect(used).toBeLessThan(os.totalmem());
  });

  it('of a process is what it knows of itself', () => {
    for (let i = 0; i < 3e7; i++) Math.sqrt(i);
    const files = new ProcFiles();
    const boot = Number(/btime (\d+)/.exec(readFileSync('/proc/stat', 'utf8'))![1]) * 1000;
    const own = readProcess(files, process.pid, boot)!;
    const { user, system } = process.cpuUsage();
    expect(Math.abs(own.userS + own.systemS - (user + system) / 1e6)).toBeLessThan(0.5);
    expect(own.parentPid).toBe(process.ppid);
    expect(own.owner).toBe(os.userInfo().username);
    expect(own.residentBytes / process.memoryUsage.rss()).toBeGreaterThan(0.7);
    expect(own.residentBytes / process.memoryUsage.rss()).toBeLessThan(1.3);
    expect(Math.abs(Date.now() - own.startedMs - process.uptime() * 1000)).toBeLessThan(3000);
    expect(own.openFiles).toBeGreaterThan(3);
  });

  it('of two programs that want one core says how long each waited for it', { timeout: 30_000 }, async () => {
    const loop = (): ReturnType<typeof spawn> =>
      spawn('taskset', [
        '-c',
        '0',
        process.execPath,
        '-e',
        'const end = Date.now() + 8000; while (Date.now() < end);'
      ]);
    const both = [loop(), loop()];
    const waits = new CoreWaits(new ProcFiles());
    const read = (): number =>
      both.reduce((sum, { pid }) => sum + (waits.waitedS(String(pid), pid!) ?? 0), 0);
    await new Promise((resolve) => setTimeout(resolve, 1500));
    const before = read();
    await new Promise((resolve) => setTimeout(resolve, 2000));
    const waited = read() - before;
    for (const one of both) one.kill();
    // Together they want two seconds of one core each second: they wait for one of the two at the least.
    expect(waited).toBeGreaterThan(1.2);
  });
});

describe('the messages', () => {
  it('are OTLP metrics, each process a resource of its own', async () => {
    const told = await new HostReader('quay-1', 5).read(Date.now());
    const { numbers, rejected } = decodeMetricsJson(JSON.stringify(metricsRequest(told, Date.now())));
    expect(rejected).toEqual([]);
    expect(numbers.length).toBeGreaterThan(20);
    expect(new Set(numbers.map(({ series }) => series.resource.host))).toEqual(new Set(['quay-1']));
    const cpu = numbers.find(({ series }) => series.name === 'system.cpu.time')!;
    expect(cpu.series).toMatchObject({ unit: 's', isMonotonic: true, isDelta: false });
    expect(numbers.some(({ series }) => series.resource.pid > 0)).toBe(true);
  });
});

describe('a process whose threads end', () => {
  let root: string;
  beforeEach(() => {
    root = mkdtempSync(path.join(os.tmpdir(), 'tromix-proc-'));
  });
  afterEach(() => rmSync(root, { recursive: true, force: true }));
  const thread = (id: number, waitedNs: number): void => {
    mkdirSync(path.join(root, `7/task/${id}`), { recursive: true });
    writeFileSync(path.join(root, `7/task/${id}/schedstat`), `5 ${waitedNs} 1\n`);
  };

  it('has not waited less than before', () => {
    const waits = new CoreWaits(new ProcFiles(root));
    thread(7, 1e9);
    thread(8, 4e9);
    expect(waits.waitedS('7', 7)).toBe(5);
    rmSync(path.join(root, '7/task/8'), { recursive: true });
    thread(7, 2e9);
    expect(waits.waitedS('7', 7)).toBe(6);
    expect(waits.waitedS('9', 9)).toBeNull();
  });

  it('is read whatever it calls itself', () => {
    mkdirSync(path.join(root, '7'), { recursive: true });
    const fields = Array.from({ length: 50 }, (_, i) => i + 3);
    writeFileSync(path.join(root, '7/stat'), `7 (a) b (c) S ${fields.slice(1).join(' ')}`);
    expect(readProcess(new ProcFiles(root), 7, 0)).toMatchObject({
      name: 'a) b (c',
      parentPid: 4,
      userS: 0.14,
      systemS: 0.15,
      threads: 20,
      readBytes: null,
      openFiles: null
    });
    expect(readProcess(new ProcFiles(root), 8, 0)).toBeNull();
  });
});

describe('the command', () => {
  const command = (...args: string[]): string =>
    execFileSync(process.execPath, ['cli/bin/tromix.mjs', 'host', ...args], {
      cwd: path.resolve(import.meta.dirname, '../../..'),
      encoding: 'utf8',
      stdio: 'pipe'
    });

  it('prints what it would send', { timeout: 30_000 }, () => {
    expect(decodeMetricsJson(command('--name', 'quay-9', '--print')).numbers.length).toBeGreaterThan(20);
  });

  it('refuses what it cannot do', { timeout: 30_000 }, () => {
    expect(() => command('--every', '0')).toThrow(/whole number from 1 to 3600/);
  });

  it(
    'goes on while nobody listens, says so once, and sends again when somebody does',
    { timeout: 40_000 },
    async () => {
      const server = createServer((request, response) => {
        request.resume().on('end', () => {
          taken++;
          response.setHeader('content-type', 'application/json').end('{}');
        });
      });
      let taken = 0;
      await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
      const { port } = server.address() as AddressInfo;
      await new Promise((resolve) => server.close(resolve));
      const sender = spawn(
        process.execPath,
        ['cli/bin/tromix.mjs', 'host', '--to', `http://127.0.0.1:${port}`, '--every', '1'],
        { cwd: path.resolve(import.meta.dirname, '../../..') }
      );
      let said = '';
      sender.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
      const until = async (done: () => boolean): Promise<void> => {
        while (!done()) await new Promise((resolve) => setTimeout(resolve, 50));
      };
      await until(() => said.includes('Not sent'));
      await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
      await until(() => taken > 1);
      expect(said.match(/Not sent/g)).toHaveLength(1);
      expect(said).toContain('It is taken again.');
      const ended = new Promise((resolve) => sender.once('exit', resolve));
      sender.kill('SIGTERM');
      expect(await ended).toBe(0);
      server.closeAllConnections();
      server.close();
    }
  );
});
