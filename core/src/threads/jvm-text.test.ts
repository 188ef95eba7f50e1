import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { inspectThreads, type InspectedThreads } from '../inspect/threads';
import { writeJvmDump } from '../testing/jvm-dump';
import { readJvmText } from './jvm-text';
import type { DumpThread } from './model';

/** Dumps of a real JDK 17 of `Situations.java`, which lies beside them: what is expected is known from that program. */
const fixture = (name: string): string =>
  readFileSync(new URL(`../../fixtures/threads/${name}.txt`, import.meta.url), 'utf8');
const inspected = (name: string): InspectedThreads => inspectThreads(readJvmText(fixture(name)).series, 0);
const named = (name: string, thread: string): DumpThread =>
  readJvmText(fixture(name)).series.dumps[0].threads.find((one) => one.name === thread)!;

describe('dumps of a real JVM', () => {
  it('are read without a warning', () => {
    for (const name of [
      'chain',
      'deadlock-monitors',
      'deadlock-locks',
      'deadlock-locks-l',
      'waits',
      'pool',
      'stuck'
    ])
      expect(readJvmText(fixture(name)).warnings).toEqual([]);
  });

  it('have as many threads in each state as the text has lines that say so', () => {
    for (const name of ['chain', 'waits', 'pool']) {
      const text = fixture(name);
      const [dump] = inspected(name).dumps;
      for (const state of ['RUNNABLE', 'BLOCKED', 'WAITING', 'TIMED_WAITING'])
        expect(dump.states[state] ?? 0).toBe(
          text.match(new RegExp(`Thread.State: ${state}\\b`, 'g'))?.length ?? 0
        );
      expect(dump.threads).toBe(text.match(/^".*nid=/gm)!.length);
    }
  });

  it('show a chain: ten want the ledger, five more wait behind one of those', () => {
    const [{ rootBlockers, capturedAt, deadlocks }] = inspected('chain').dumps;
    expect(deadlocks).toEqual([]);
    expect(rootBlockers).toHaveLength(1);
    const [root] = rootBlockers;
    expect(root).toMatchObject({
      thread: 'roster-sync',
      lockClass: 'quillhaven.pilots.Situations$PilotLedger',
      direct: 10,
      transitive: 15,
      at: { function: 'quillhaven.pilots.Situations.rest', file: 'Situations.java' },
      top: { function: 'java.lang.Thread.sleep' }
    });
    expect(new Set(root.waiting)).toEqual(
      new Set(['tide-listener', ...Array.from({ length: 9 }, (_, i) => `http-worker-${i + 1}`)])
    );
    expect(capturedAt).toMatch(/^2026-11-24T\d\d:\d\d:\d\d$/);
  });

  it.each([
    ['deadlock-monitors', ['pilot-a', 'pilot-b']],
    ['deadlock-locks', ['quay-0', 'quay-1', 'quay-2']],
    ['deadlock-locks-l', ['quay-0', 'quay-1', 'quay-2']]
  ])('show the deadlock of %s, as the machine itself found it', (name, threads) => {
    const { dumps, findings } = inspected(name);
    expect(dumps[0].deadlocks).toHaveLength(1);
    expect(dumps[0].deadlocks[0].threads).toEqual(threads);
    // Outside: the machine's own section of the same dump.
    const { reportedDeadlocks } = readJvmText(fixture(name)).series.dumps[0];
    expect(reportedDeadlocks).toHaveLength(1);
    expect(new Set(reportedDeadlocks[0].threads.map((one) => one.name))).toEqual(new Set(threads));
    for (const { name: thread, lock, heldBy } of reportedDeadlocks[0].threads) {
      const place = dumps[0].deadlocks[0].threads.indexOf(thread);
      expect(dumps[0].deadlocks[0].locks[place]).toBe(lock);
      expect(dumps[0].deadlocks[0].threads[(place + 1) % threads.length]).toBe(heldBy);
    }
    expect(findings.map(({ rule }) => rule)).toContain('deadlock');
  });

  it('name no owner of a latch, a condition or a notification', () => {
    const [dump] = inspected('waits').dumps;
    const classes = dump.unknownOwners.map(({ lockClass, waiting }) => [
      lockClass.split('.').at(-1),
      waiting
    ]);
    expect(classes).toContainEqual(['CountDownLatch$Sync', ['latch-waiter']]);
    expect(classes).toContainEqual(['AbstractQueuedSynchronizer$ConditionObject', ['condition-waiter']]);
    // The waiter gave the monitor away, though its frame still says "locked".
    expect(dump.rootBlockers.map(({ thread, waiting }) => [thread, waiting])).toEqual([
      ['bell-holder', ['bell-wanter']]
    ]);
  });

  it('tell what a thread has, as the text has it', () => {
    const burner = named('waits', 'burner');
    expect(burner).toMatchObject({
      state: 'RUNNABLE',
      mode: 'running',
      daemon: true,
      virtual: false,
      system: false
    });
    expect(burner.cpuMs!).toBeGreaterThan(100);
    expect(burner.elapsedMs!).toBeGreaterThan(burner.cpuMs! * 0.5);
    expect(named('chain', 'main').mode).toBe('sleeping');
    expect(named('chain', 'VM Thread').system).toBe(true);
  });

  it('keep names as they are, whatever they hold', () => {
    const names = readJvmText(fixture('names')).series.dumps[0].threads.map(({ name }) => name);
    for (const name of [
      'say "hello" #3 prio=9 tid=0x1',
      '<img src=x onerror=alert(1)>',
      '',
      '__proto__',
      'zwei\nZeilen'
    ])
      expect(names).toContain(name);
    expect(names.filter((name) => name === 'twin')).toHaveLength(2);
  });

  it('show who did not move over three dumps, and whether it computed', () => {
    const { dumps, stuck, findings } = inspected('stuck');
    expect(dumps).toHaveLength(3);
    const found = new Map(stuck.map((one) => [one.thread, one]));
    expect(found.get('standing')).toMatchObject({ dumps: 3, computing: false });
    expect(found.get('burning')).toMatchObject({ dumps: 3, computing: true });
    expect(found.has('moving')).toBe(false);
    expect(
      findings.some(
        ({ rule, evidence }) => rule === 'stuck-across-dumps' && evidence.threads[0] === 'burning'
      )
    ).toBe(true);
  });

  it('tell a used-up pool from one with nothing to do', () => {
    const found = inspected('pool').findings.filter(({ rule }) => rule === 'pool-exhausted');
    expect(found.map(({ figures }) => figures)).toEqual([{ size: 4, busy: 4, blocked: 0, idle: 0 }]);
    expect(found[0].sentence).toContain('pool-1-thread-*');
  });
});

describe('forms of other machines (from memory of their documentation and sources)', () => {
  it('JDK 8: a monitor given back while waiting to get it again is wanted, not held', () => {
    const text = `Full thread dump Java HotSpot(TM) 64-Bit Server VM (25.402-b06 mixed mode):

"bell" #12 prio=5 os_prio=0 tid=0x00007f0001 nid=0x5a03 in Object.wait() [0x00007f1]
   java.lang.Thread.State: BLOCKED (on object monitor)
	at java.lang.Object.wait(Native Method)
	- waiting on <0x000000076ab1> (a quillhaven.Bell)
	at java.lang.Object.wait(Object.java:502)
	at quillhaven.Tower.listen(Tower.java:10)
	- locked <0x000000076ab1> (a quillhaven.Bell)

"ringer" #13 prio=5 os_prio=0 tid=0x00007f0002 nid=0x5a04 runnable [0x00007f2]
   java.lang.Thread.State: RUNNABLE
	at quillhaven.Tower.ring(Tower.java:20)
	- locked <0x000000076ab1> (a quillhaven.Bell)

JNI global references: 20
`;
    const [dump] = inspectThreads(readJvmText(text).series, 0).dumps;
    expect(dump.rootBlockers).toMatchObject([{ thread: 'ringer', waiting: ['bell'] }]);
  });

  it('JDK 21: numbers in brackets, re-lock and eliminated lines, carriers', () => {
    const text = `2026-11-24 09:00:00
Full thread dump OpenJDK 64-Bit Server VM (21.0.5+11 mixed mode, sharing):

"main" #1 [4711] prio=5 os_prio=0 cpu=12.00ms elapsed=4.00s tid=0x0000a1 nid=4711 waiting for monitor entry  [0x01]
   java.lang.Thread.State: BLOCKED (on object monitor)
	at java.lang.Object.wait0(java.base@21.0.5/Native Method)
	- waiting to re-lock in wait() <0x00000000d1> (a java.lang.Object)
	at quillhaven.Main.go(app/Main.java:9)
	- eliminated <owner is scalar replaced> (a java.lang.Object)
	- eliminated <0x00000000d2> (a java.lang.Object)
	- locked <0x00000000d1> (a java.lang.Object)

"ForkJoinPool-1-worker-1" #30 [4712] daemon prio=5 os_prio=0 cpu=1.00ms elapsed=4.00s tid=0x0000a2 nid=4712 waiting on condition  [0x02]
   Carrying virtual thread #29
	at jdk.internal.vm.Continuation.run(java.base@21.0.5/Continuation.java:248)
	- locked <0x00000000d1> (a java.lang.Object)

JNI global refs: 9, weak refs: 0
`;
    const { series, warnings } = readJvmText(text);
    expect(warnings).toEqual([]);
    const [main, carrier] = series.dumps[0].threads;
    expect(main).toMatchObject({ nativeId: '4711', holds: [], waitsFor: { kind: 're-enter' } });
    expect(series.frames[main.frames[1]]).toMatchObject({
      name: 'quillhaven.Main.go',
      file: 'Main.java',
      line: 9,
      kind: 'app'
    });
    expect(carrier.holds).toHaveLength(1);
  });
});

describe('what is wrong with a dump', () => {
  const chain = fixture('chain');

  it('is said where the end is missing, and what is there is shown', () => {
    const { series, warnings } = readJvmText(chain.slice(0, chain.indexOf('"http-worker-9"')));
    expect(warnings.map(({ code }) => code)).toEqual(['no-end']);
    expect(series.dumps[0].threads.some(({ name }) => name === 'roster-sync')).toBe(true);
  });

  it('never breaks the reader: cut off anywhere', () => {
    const text = fixture('deadlock-locks-l');
    fc.assert(
      fc.property(fc.nat(text.length), (length) => {
        const cut = text.slice(0, length);
        try {
          const { series } = readJvmText(cut);
          inspectThreads(series, 0);
        } catch (cause) {
          expect(cause).toMatchObject({ code: 'no-threads' });
        }
      }),
      { numRuns: 300 }
    );
  });

  it('is worded: two dumps written through each other, empty ones, other lines between', () => {
    const dump = writeJvmDump([{ name: 'a' }, { name: 'b' }]);
    const [first, second] = [dump.split('\n'), dump.split('\n')];
    const mixed = first.flatMap((line, i) => [line, second[i]]).join('\n');
    const codes = readJvmText(mixed).warnings.map(({ code }) => code);
    expect(codes).toContain('same-thread-twice');
    const garbage = 'INFO nothing of interest\n'.repeat(100_000);
    const amid = readJvmText(garbage + dump.replace('"b"', `${garbage}"b"`) + garbage);
    expect(amid.series.dumps[0].threads).toHaveLength(2);
    expect(amid.warnings).toEqual([expect.objectContaining({ code: 'other-lines', count: 100_000 })]);
    expect(() => readJvmText('')).toThrow(/no thread was found/);
    expect(() => readJvmText('Full thread dump X:\n\n')).toThrow(/no thread was found/);
  });

  it('is worded: a lock with two owners, a section that disagrees', () => {
    const two = inspectThreads(
      readJvmText(
        writeJvmDump([
          { name: 'a', holds: ['0x1'] },
          { name: 'b', holds: ['0x1'] },
          { name: 'c', wants: '0x1' }
        ])
      ).series,
      0
    );
    expect(two.warnings).toEqual([expect.objectContaining({ code: 'two-owners', count: 1 })]);
    expect(two.dumps[0].rootBlockers.map(({ thread }) => thread)).toEqual(['a', 'b']);
    const text = fixture('deadlock-monitors')
      .replaceAll('which is held by "pilot-b"', 'which is held by "clerk"')
      .replace('\n"pilot-b":\n  waiting', '\n"clerk":\n  waiting');
    expect(inspectThreads(readJvmText(text).series, 0).warnings.map(({ code }) => code)).toEqual([
      'deadlock-disagrees'
    ]);
  });
});
