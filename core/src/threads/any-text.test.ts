import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EvidenceError } from '../formats/evidence-error';
import { findInSeries } from '../findings/thread-findings';
import { inspectThreads } from '../inspect/threads';
import { joinSeries } from './join';
import type { DumpSeries, ThreadFormat } from './model';
import { readGoText } from './go-text';
import { readThreads } from './read';

/** A little of each format, to be damaged: every line and sign may be missing, doubled, moved or another. */
const SOURCES: Record<ThreadFormat, string> = {
  'jvm-threads': readFileSync(new URL('../../fixtures/threads/chain.txt', import.meta.url), 'utf8'),
  'jvm-threads-file': `4711
2026-11-20T09:00:00.250123Z
21.0.4+7

#1 "main"
      java.base/java.lang.Object.wait(Object.java:366)
      quay.Harbour.await(Harbour.java:31)

#30 "" virtual
      quay.Tide.next(Tide.java:12)
`,
  'python-threads': `Thread 0x00007f3b5c7fe700 (most recent call first):
  File "/usr/lib/python3.11/threading.py", line 320 in wait
  File "/srv/tides/queue.py", line 40 in next_window

Current thread 0x00007f3b5d000740 [tide-reader] (most recent call first):
  File "/srv/tides/main.py", line 12 in harmonic_sum
  ...
`,
  'go-threads': `goroutine 1 [sync.Mutex.Lock, 5 minutes]:
sync.(*Mutex).Lock(...)
	/usr/local/go/src/sync/mutex.go:92
main.(*Roster).Post(0xc0000b4000, {0x4b2c5e, 0x3})
	/srv/pilots/roster.go:41 +0x57

goroutine profile: total 5
3 @ 0x43a1c5 0x4329bd
#	0x46e2c1	main.work+0x61	/srv/pilots/main.go:12

12 goroutines [select]:
main.a()
	/srv/a.go:1 +0x1
`,
  'jvm-threads-json': JSON.stringify(
    {
      threadDump: {
        processId: '4711',
        time: '2026-11-24T09:27:00.5Z',
        runtimeVersion: '21.0.5+11',
        threadContainers: [
          {
            container: '<root>',
            threads: [
              { tid: '1', name: 'main', stack: ['java.base/java.lang.Thread.sleep(Native Method)'] },
              { tid: '22', name: 'worker', stack: ['quillhaven.pilots.Roster.post(Roster.java:12)'] }
            ]
          }
        ]
      }
    },
    null,
    1
  ),
  'node-report': JSON.stringify(
    {
      header: { processId: 4711, dumpEventTime: '2026-11-24T09:27:00Z', nodejsVersion: 'v20.20.2' },
      javascriptStack: { message: 'Error', stack: ['at craneHours (file:///srv/berths/rank.ts:24:7)'] },
      nativeStack: [{ pc: '0x1', symbol: 'node::Start' }],
      libuv: []
    },
    null,
    1
  )
};

type Damage = { at: number; what: 'drop' | 'double' | 'move' | 'sign' | 'digits'; sign: string };
const damages = fc.array(
  fc.record({
    at: fc.nat(10_000),
    what: fc.constantFrom(
      'drop' as const,
      'double' as const,
      'move' as const,
      'sign' as const,
      'digits' as const
    ),
    sign: fc.oneof(
      fc.string({ unit: 'binary', minLength: 1, maxLength: 2 }),
      fc.constantFrom('"', '[', '<', '\t', '__proto__')
    )
  }),
  { minLength: 1, maxLength: 8 }
);
function damaged(text: string, list: readonly Damage[]): string {
  const lines = text.split('\n');
  for (const { at, what, sign } of list) {
    const i = at % lines.length;
    const line = lines[i] ?? '';
    if (what === 'drop') lines.splice(i, 1);
    else if (what === 'double') lines.splice(i, 0, line);
    else if (what === 'move') lines.push(...lines.splice(i, 1));
    else if (what === 'digits') lines[i] = line.replace(/\d+/, '4711');
    else lines[i] = line.slice(0, at % (line.length + 1)) + sign + line.slice((at % (line.length + 1)) + 1);
  }
  return lines.join('\n');
}

/** Every index leads somewhere, whatever the text was. */
function holdsTogether({ frames, dumps }: DumpSeries): void {
  expect(dumps.length).toBeGreaterThan(0);
  for (const { threads, locks } of dumps)
    for (const { frames: stack, holds, waitsFor } of threads) {
      for (const frame of stack) expect(frames[frame]).toBeDefined();
      for (const { lock } of [...holds, ...(waitsFor ? [waitsFor] : [])]) expect(locks[lock]).toBeDefined();
    }
}

describe('any text', () => {
  it.each(Object.keys(SOURCES) as ThreadFormat[])(
    'damaged %s is a series that holds together, or one worded error',
    (format) => {
      fc.assert(
        fc.property(damages, (list) => {
          const text = damaged(SOURCES[format], list);
          let series: DumpSeries;
          try {
            series = readThreads(new TextEncoder().encode(text), format).series;
          } catch (cause) {
            expect(cause).toBeInstanceOf(EvidenceError);
            expect((cause as Error).message.length).toBeGreaterThan(20);
            return;
          }
          holdsTogether(series);
          // And everything that is said of it can be said.
          const joined = joinSeries([series, series]);
          holdsTogether(joined);
          for (const { sentence } of findInSeries(joined)) expect(sentence).not.toMatch(/undefined|NaN/);
          expect(() => JSON.stringify(inspectThreads(joined, 5))).not.toThrow();
        }),
        { numRuns: 100 }
      );
    }
  );
  it('of whatever sign is no dump, in words', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary' }),
        fc.constantFrom(...(Object.keys(SOURCES) as ThreadFormat[])),
        (text, format) => {
          expect(() => readThreads(new TextEncoder().encode(text), format)).toThrow(EvidenceError);
        }
      )
    );
  });
});

it('shows no more goroutines than memory is for, however many groups claim however many', () => {
  const group = '600000 goroutines [select]:\nmain.a()\n\t/srv/a.go:1 +0x1\n\n';
  const { series, warnings } = readGoText(group.repeat(5));
  expect(series.dumps[0].threads).toHaveLength(1_000_000);
  expect(warnings.find(({ code }) => code === 'group-cut')).toMatchObject({ count: 4 });
});
