import { expect, it } from 'vitest';
import { recognise } from '../formats/recognise';
import { readJvmFileText } from './jvm-file-text';

// The form of JDK 21's Thread.dump_to_file, and the states JDK 24 adds: from memory, no such JDK is at hand.
const TEXT = `4711
2026-11-20T09:00:00.250123Z
21.0.4+7-LTS

#1 "main"
      java.base/java.lang.Object.wait0(Native Method)
      java.base/java.lang.Object.wait(Object.java:366)
      app//quay.Harbour.await(Harbour.java:31)

#30 "" virtual
      java.base/java.lang.VirtualThread.park(VirtualThread.java:582)
      quay.Tide.next(Tide.java:12)

#31 "reader" RUNNABLE 2026-11-20T09:00:00.250Z
      quay.Manifest.parse(Manifest.java:8)

#9 "Reference Handler"

`;

it('is recognised, and read with virtual threads and what the top frames show', () => {
  const bytes = new TextEncoder().encode(TEXT);
  expect(recognise(bytes).format).toBe('jvm-threads-file');
  const { series, warnings } = readJvmFileText(TEXT);
  const [dump] = series.dumps;
  expect(dump).toMatchObject({
    pid: 4711,
    runtime: 'Java 21.0.4+7-LTS',
    capturedAt: '2026-11-20T09:00:00.250123Z'
  });
  expect(dump.threads.map(({ name, mode, virtual, system }) => [name, mode, virtual, system])).toEqual([
    ['main', 'waiting', false, false],
    ['virtual thread 30', 'waiting', true, false],
    ['reader', 'running', false, false],
    ['Reference Handler', 'unknown', false, true]
  ]);
  expect(series.frames[dump.threads[0].frames[2]]).toMatchObject({
    name: 'quay.Harbour.await',
    line: 31,
    kind: 'app'
  });
  expect(warnings.map(({ code }) => code)).toEqual(['no-locks']);
});

it('without a thread is one worded error', () => {
  expect(() => readJvmFileText('4711\n2026-11-20T09:00:00Z\n21\n\n')).toThrow(/no thread was found/);
});
