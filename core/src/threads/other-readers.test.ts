import { describe, expect, it } from 'vitest';
import { recognise } from '../formats/recognise';
import { inspectThreads } from '../inspect/threads';
import { readGoText } from './go-text';
import { readJvmJson } from './jvm-json';
import { readNodeReport } from './node-report';
import { readPythonText } from './python-text';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

/** Form of the texts: the documentation of Python's faulthandler module. */
const PYTHON = `Timeout (0:00:05)!
Thread 0x00007f3b5c7fe700 (most recent call first):
  File "/usr/lib/python3.11/threading.py", line 320 in wait
  File "/srv/tides/queue.py", line 40 in next_window
  File "/srv/tides/venv/lib/python3.11/site-packages/harmonics/table.py", line 7 in load

Thread 0x00007f3b5cfff700 [tide-reader] (most recent call first):
  File "/srv/tides/<evil>.py", line 3 in <script>alert(1)</script>
  ...

Current thread 0x00007f3b5d000740 (most recent call first):
  File "/srv/tides/main.py", line 12 in harmonic_sum
  File "/srv/tides/main.py", line 20 in <module>
`;

describe('Python’s fault handler', () => {
  it('is read: threads, frames, whose code, what they do', () => {
    expect(recognise(bytes(PYTHON)).format).toBe('python-threads');
    const { series, warnings } = readPythonText(PYTHON);
    const [dump] = series.dumps;
    expect(dump.threads.map(({ name, mode }) => [name, mode])).toEqual([
      ['0x00007f3b5c7fe700', 'waiting'],
      ['tide-reader', 'unknown'],
      ['0x00007f3b5d000740', 'unknown']
    ]);
    const kinds = Array.from(dump.threads[0].frames, (frame) => [
      series.frames[frame].kind,
      series.frames[frame].package
    ]);
    expect(kinds).toEqual([
      ['runtime', ''],
      ['app', ''],
      ['dependency', 'harmonics']
    ]);
    expect(dump.notes).toEqual(['Timeout (0:00:05)!', '0x00007f3b5d000740 was the current thread']);
    expect(warnings.map(({ code }) => code)).toEqual(['stack-cut', 'no-states']);
  });

  it('begins another dump where a thread comes again', () => {
    expect(readPythonText(PYTHON + PYTHON.replace('Timeout (0:00:05)!\n', '')).series.dumps).toHaveLength(2);
    expect(() => readPythonText('nothing')).toThrow(/no thread was found/);
  });
});

/** Form of the texts: the documentation of Go’s runtime package. */
const GO = `SIGQUIT: quit
PC=0x46a1e1 m=0 sigcode=0

goroutine 1 [sync.Mutex.Lock, 5 minutes]:
sync.runtime_SemacquireMutex(0xc000012128?, 0x0?, 0x1?)
	/usr/local/go/src/runtime/sema.go:95 +0x25
sync.(*Mutex).lockSlow(0xc0000b4004)
	/usr/local/go/src/sync/mutex.go:173 +0x15d
sync.(*Mutex).Lock(...)
	/usr/local/go/src/sync/mutex.go:92
main.(*Roster).Post(0xc0000b4000, {0x4b2c5e, 0x3})
	/srv/pilots/roster.go:41 +0x57
main.main()
	/srv/pilots/main.go:17 +0x8f

goroutine 18 gp=0xc0000061c0 m=3 mp=0xc000 [running, locked to thread]:
example.test/harbour/tides.Sum(...)
	/home/harbour/go/pkg/mod/example.test/harbour@v1.2.0/tides/sum.go:9
created by main.start in goroutine 1
	/srv/pilots/main.go:11 +0x5c

goroutine 19 [chan receive, 12 minutes]:
main.work()
	/srv/pilots/main.go:30 +0x1d
`;

describe('Go’s goroutines', () => {
  it('are read: reasons, minutes, whose code, the mutex by its address', () => {
    expect(recognise(bytes(GO)).format).toBe('go-threads');
    const { series } = readGoText(GO);
    const [one, eighteen, nineteen] = series.dumps[0].threads;
    expect(one).toMatchObject({
      state: 'sync.Mutex.Lock',
      mode: 'blocked',
      elapsedMs: 300_000,
      waitsFor: { kind: 'mutex' }
    });
    expect(eighteen).toMatchObject({ state: 'running', mode: 'running' });
    expect(eighteen.frames).toHaveLength(1);
    expect(series.frames[eighteen.frames[0]]).toMatchObject({
      name: 'example.test/harbour/tides.Sum',
      kind: 'dependency',
      package: 'example.test/harbour@v1.2.0',
      line: 9
    });
    expect(nineteen).toMatchObject({ state: 'chan receive', mode: 'waiting', elapsedMs: 720_000 });
    const [dump] = inspectThreads(series, 0).dumps;
    expect(dump.unknownOwners).toEqual([
      { lock: '0xc0000b4004', lockClass: 'sync.Mutex', waiting: ['goroutine 1'] }
    ]);
    expect(series.frames[one.frames.at(-1)!]).toMatchObject({ name: 'main.main', kind: 'app' });
  });

  it('are read from a profile with counts, and from groups', () => {
    const profile = `goroutine profile: total 5
3 @ 0x43a1c5 0x4329bd
#	0x46e2c1	main.work+0x61	/srv/pilots/main.go:12
#	0x46e2c2	main.loop+0x10	/srv/pilots/main.go:8

2 @ 0x43a1c6
#	0x46e2c3	time.Sleep+0x12	/usr/local/go/src/runtime/time.go:195
#	0x46e2c4	main.rest+0x12	/srv/pilots/main.go:19
`;
    expect(recognise(bytes(profile)).format).toBe('go-threads');
    const { series } = readGoText(profile);
    expect(series.dumps[0].threads).toHaveLength(5);
    expect(inspectThreads(series, 0).dumps[0].groups.map(({ count, frames }) => [count, frames[0]])).toEqual([
      [3, 'main.work(/srv/pilots/main.go:12)'],
      [2, 'time.Sleep(/usr/local/go/src/runtime/time.go:195)']
    ]);
    expect(
      readGoText('12 goroutines [select]:\nmain.a()\n\t/srv/a.go:1 +0x1\n').series.dumps[0].threads
    ).toHaveLength(12);
  });
});

describe('the JVM’s JSON dumps', () => {
  const dump = (threads: object[]): string =>
    JSON.stringify({
      threadDump: {
        processId: '4711',
        time: '2026-11-24T09:27:00.5Z',
        runtimeVersion: '21.0.5+11',
        threadContainers: [
          { container: '<root>', parent: null, owner: null, threads, threadCount: String(threads.length) }
        ]
      }
    });

  it('of JDK 21 are read; what they do not tell is said', () => {
    const text = dump([
      {
        tid: '1',
        name: 'main',
        stack: ['java.base/java.lang.Thread.sleep0(Native Method)', 'app//quillhaven.Main.go(Main.java:9)']
      },
      { tid: '40', name: '', stack: ['java.base/java.lang.VirtualThread.park(VirtualThread.java:582)'] }
    ]);
    expect(recognise(bytes(text)).format).toBe('jvm-threads-json');
    const { series, warnings } = readJvmJson(text);
    expect(series.dumps[0]).toMatchObject({ pid: 4711, capturedAt: '2026-11-24T09:27:00.5Z' });
    expect(series.dumps[0].threads.map(({ name, mode, virtual }) => [name, mode, virtual])).toEqual([
      ['main', 'sleeping', false],
      ['#40', 'waiting', true]
    ]);
    expect(series.frames[1]).toMatchObject({ name: 'quillhaven.Main.go', kind: 'app', line: 9 });
    expect(warnings.map(({ code }) => code)).toEqual(['no-states']);
  });

  it('of later machines tell locks and their owners', () => {
    const { series } = readJvmJson(
      dump([
        {
          tid: 1,
          name: 'holder',
          state: 'RUNNABLE',
          stack: [],
          monitorsOwned: [{ depth: 0, locks: ['java.lang.Object@1f', null] }]
        },
        { tid: 2, name: 'wanter', state: 'BLOCKED', stack: [], blockedOn: 'java.lang.Object@1f' },
        {
          tid: 3,
          name: 'parked',
          state: 'WAITING',
          stack: [],
          parkBlocker: { object: 'java.util.concurrent.locks.ReentrantLock$NonfairSync@2a', owner: 1 }
        }
      ])
    );
    const [{ rootBlockers }] = inspectThreads(series, 0).dumps;
    expect(rootBlockers.map(({ thread, waiting }) => [thread, waiting])).toEqual([
      ['holder', ['wanter']],
      ['holder', ['parked']]
    ]);
  });

  it('are refused in words where they are not', () => {
    expect(() => readJvmJson('{"threadDump":{"threadContainers":[')).toThrow(/breaks off/);
    expect(() => readJvmJson('{"threadDump":{}}')).toThrow(/threadContainers/);
    expect(() => readJvmJson(dump([]))).toThrow(/no thread/);
  });
});

describe('a Node.js diagnostic report', () => {
  it('of this very process is read', () => {
    const text = JSON.stringify(process.report.getReport());
    expect(recognise(bytes(JSON.stringify(process.report.getReport(), null, 2))).format).toBe('node-report');
    const { series } = readNodeReport(text);
    expect(series.dumps[0].pid).toBe(process.pid);
    expect(series.dumps[0].threads[0].name).toBe('main');
    expect(series.dumps[0].threads[0].frames.length).toBeGreaterThan(0);
    expect(series.frames.some(({ file, line }) => file.includes('other-readers.test') && line > 0)).toBe(
      true
    );
    expect(JSON.stringify(series)).not.toContain(process.env.PATH ?? 'PATH');
  });

  it('is refused in words where it is none', () => {
    expect(() => readNodeReport('{"header":{}')).toThrow(/breaks off/);
    expect(() => readNodeReport('{}')).toThrow(/javascriptStack/);
  });
});
