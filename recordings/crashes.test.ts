import { readFileSync } from 'node:fs';
import path from 'node:path';
import { gunzipSync } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { readCrash } from '../core/src/crashes/read';
import { recogniseCrash } from '../core/src/crashes/recognise';
import type { Crash } from '../core/src/crashes/crash';
import { identityOf } from '../core/src/failures/identity';
import { EvidenceError } from '../core/src/formats/evidence-error';
import { FileHead } from '../core/src/formats/file-head';
import { recognise } from '../core/src/formats/recognise';

interface Recorded {
  stderr: string;
  exitCode: number | null;
  signal: string;
  report?: string;
}
/** What real processes left behind: see crashes/record.mjs. */
const RECORDED = JSON.parse(
  gunzipSync(readFileSync(path.join(import.meta.dirname, 'crashes/crashes.json.gz'))).toString()
) as Record<string, Recorded>;

const bytesOf = (text: string): Uint8Array => new TextEncoder().encode(text);
function read(text: string): Crash {
  const bytes = bytesOf(text);
  const format = recogniseCrash(new FileHead(bytes));
  if (!format) throw new Error('not recognised');
  return readCrash(bytes, format);
}
/** As `tromix run` hands it over. */
const endOf = ({ stderr, exitCode, signal, report }: Recorded): Crash =>
  read(
    JSON.stringify({
      processEnd: 1,
      program: 'node server.js',
      pid: 41,
      startedAtMs: 1_795_000_000_000,
      endedAtMs: 1_795_000_090_000,
      exitCode,
      signal,
      stderr,
      ...(report?.startsWith('{')
        ? { nodeReport: JSON.parse(report) as unknown }
        : report
          ? { jvmFatalLog: report }
          : {})
    })
  );
const told = ({ cause, exception, thread }: Crash): string => {
  const { type, message, function: name } = identityOf(exception ?? { type: '', message: '', stack: '' });
  return [cause, type, message, name, thread.replace(/\d\d/, '?')].join(' | ');
};

/** By the hand that wrote the programs: cause, type, message, innermost function of their own, thread. */
const BY_HAND: Record<string, string> = {
  'node-throw': 'exception | BerthTaken | berth ? is taken | reserve | main',
  'node-oom': 'memory |  | Allocation failed - JavaScript heap out of memory |  | ',
  'node-deep': 'recursion | RangeError | Maximum call stack size exceeded | visit | main',
  'node-abort': 'signal |  |  |  | ',
  'jvm-throw':
    'exception | java.lang.IllegalStateException | gauge north-9 is not read | Tide.predict | main',
  'jvm-oom': 'memory | java.lang.OutOfMemoryError | Java heap space | Tide.fill | main',
  'jvm-deep': 'recursion | java.lang.StackOverflowError |  | Tide.visit | main',
  'jvm-crash': 'signal | SIGSEGV | in V [libjvm.so+?] Unsafe_PutLong+? | Tide.crash | main',
  'jvm-pool': 'exception | java.lang.IllegalStateException | gauge x is not read | Tide.predict | tide-1',
  'jvm-crash-on-oom':
    'memory | java.lang.OutOfMemoryError | OutOfMemory encountered: Java heap space | Tide.fill | main',
  'jvm-exit-on-oom': 'exit |  |  |  | ',
  'go-panic': 'exception | panic | tug ? lost its line | main.main | goroutine 1',
  'go-nil':
    'exception | panic | runtime error: invalid memory address or nil pointer dereference | main.pull | goroutine 1',
  'go-deep': 'recursion | fatal error | stack overflow | main.visit | goroutine 1',
  'go-lock': 'deadlock | fatal error | all goroutines are asleep - deadlock! | main.main | goroutine 1',
  'go-map': 'runtime | fatal error | concurrent map writes | main.main.func | goroutine ?',
  'python-throw': 'exception | NoPilot | no pilot for call ? | assign | ',
  'python-deep': 'recursion | RecursionError | maximum recursion depth exceeded | visit | ',
  'python-oom': 'memory | MemoryError |  | <module> | ',
  'python-segv': 'runtime | Fatal Python error | Segmentation fault | <module> | ',
  'python-thread': 'exception | NoPilot | no pilot for call ? | assign | ',
  'ruby-throw': 'exception | QuayFull | quay ? is full | moor | ',
  'ruby-deep': 'recursion | SystemStackError | stack level too deep | visit | ',
  'php-throw': 'exception | BuoyLost | buoy ? is dark | light | ',
  'php-oom': 'memory |  | Allowed memory size of ? bytes exhausted (tried to allocate ? bytes) |  | '
};

describe('what real processes left behind as they crashed', () => {
  it.each(Object.keys(BY_HAND))('%s: what ended it, in which function', (name) => {
    expect(told(endOf(RECORDED[name]))).toBe(BY_HAND[name]);
  });

  it.each(
    Object.keys(BY_HAND).filter(
      (name) => RECORDED[name].report || (RECORDED[name].stderr && !/^node-(oom|abort)/.test(name))
    )
  )('%s: also from its own file, without tromix run', (name) => {
    const { stderr, report } = RECORDED[name];
    const [cause, type] = BY_HAND[name].split(' | ');
    const crash = read(report || stderr);
    expect(crash.cause).toBe(cause);
    expect(crash.exception?.type).toBe(type);
  });

  it('every recording is judged', () =>
    expect(Object.keys(BY_HAND).sort()).toEqual(Object.keys(RECORDED).sort()));

  it('tells memory, limits, process and time as the reports have them', () => {
    const node = read(RECORDED['node-oom'].report!);
    expect(node).toMatchObject({
      runtime: expect.stringMatching(/^Node\.js v20\./),
      program: 'node oom.cjs'
    });
    const figure = (name: string): number => node.memory.find((one) => one.name === name)!.bytes;
    expect(figure('resident')).toBeGreaterThan(figure('heap in use'));
    expect(node.limits.find(({ name }) => name === 'heap')!.value).toBeGreaterThan(40 * 1024 * 1024);
    expect(node.limits.find(({ name }) => name === 'container')).toBeUndefined();
    const jvm = read(RECORDED['jvm-crash'].report!);
    expect(jvm).toMatchObject({ signal: 'SIGSEGV', program: 'Tide', isCut: false });
    expect(jvm.limits).toContainEqual({ name: 'heap', value: 32 * 1024 * 1024, unit: 'bytes' });
    expect(jvm.uptimeMs).toBeGreaterThan(0);
    expect(jvm.atMs).toBeGreaterThan(1.7e12);
    expect(endOf(RECORDED['go-nil'])).toMatchObject({ exitCode: 2, uptimeMs: 90_000, pid: 41 });
  });
});

describe('what is no crash, or a damaged one', () => {
  it('a report that was asked for, and dumps of threads, stay dumps of threads', () => {
    const asked = RECORDED['node-throw'].report!.replace('"trigger": "Exception"', '"trigger": "GetReport"');
    expect(recognise(bytesOf(asked)).kind).toBe('threads');
    for (const file of ['python.txt', 'debug2.txt']) {
      const text = readFileSync(path.join(import.meta.dirname, 'threads', file));
      expect(recognise(text).kind, file).toBe('threads');
    }
  });

  it.each(Object.keys(RECORDED).filter((name) => RECORDED[name].report))(
    '%s cut at any place: an error in words, or what is left',
    (name) => {
      const report = RECORDED[name].report!;
      for (let at = 40; at < report.length; at += 397) {
        const bytes = bytesOf(report.slice(0, at));
        const format = recogniseCrash(new FileHead(bytes));
        if (!format) continue;
        try {
          const crash = readCrash(bytes, format);
          if (format === 'jvm-fatal-log') expect(crash.isCut).toBe(true);
        } catch (cause) {
          expect(cause).toBeInstanceOf(EvidenceError);
        }
      }
    }
  );

  it('forged figures are not told', () => {
    const report = JSON.parse(RECORDED['node-throw'].report!) as Record<string, unknown>;
    const forged = read(
      JSON.stringify({
        ...report,
        javascriptHeap: { usedMemory: 'much', memoryLimit: -1 },
        resourceUsage: { rss: -7 },
        userLimits: 7
      })
    );
    expect(forged.memory).toEqual([]);
    expect(forged.cause).toBe('exception');
  });

  it('a stack of ten thousand frames in the last lines, and lines without end', () => {
    const frames = Array.from({ length: 10_000 }, (_, i) => `\tat a.B.c${i}(B.java:${i})`);
    const long = read(
      `Exception in thread "main" java.lang.IllegalStateException: x\n${frames.join('\n')}\n`
    );
    expect(long).toMatchObject({ cause: 'exception' });
    expect(long.lastLines).toHaveLength(200);
    const began = performance.now();
    expect(() => read(`${'goroutine '.repeat(200_000)}`)).toThrow();
    expect(() => read(`${'a/b:1\n'.repeat(100_000)}`)).toThrow();
    expect(performance.now() - began).toBeLessThan(3000);
  });
});
