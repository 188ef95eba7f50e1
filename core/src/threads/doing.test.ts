import { describe, expect, it } from 'vitest';
import { doingOf, doingOfThread, modeOfDoing, type Doing } from './doing';
import { javaFrame } from './java-frame';
import type { DumpThread, ThreadFrame } from './model';
import { placeWords, shortClass, shortLock, shortLocks, shortName } from './places';
import { isIdle, poolPattern, poolsOf } from './pools';

const own = 'quillhaven.pilots.Roster.sync(Roster.java:12)';
const stackOf = (...lines: string[]): { frames: ThreadFrame[]; stack: Int32Array } => ({
  frames: lines.map(javaFrame),
  stack: Int32Array.from(lines.keys())
});
const doing = (...lines: string[]): Doing => {
  const { frames, stack } = stackOf(...lines);
  return doingOf(frames, stack);
};

// Source: stacks as OpenJDK 17 prints them (its own class and method names; the JDK's sources, from memory, and the dumps in fixtures/threads).
describe('what a Java thread does, by its top frames', () => {
  it.each<[Doing, string[]]>([
    ['sleeping', ['java.lang.Thread.sleep(java.base@17.0.15/Native Method)', own]],
    [
      'network-read',
      [
        'sun.nio.ch.SocketDispatcher.read0(java.base@17.0.15/Native Method)',
        'sun.nio.ch.SocketDispatcher.read(java.base@17.0.15/SocketDispatcher.java:47)',
        'sun.nio.ch.NioSocketImpl.tryRead(java.base@17.0.15/NioSocketImpl.java:261)',
        own
      ]
    ],
    ['network-write', ['sun.nio.ch.SocketDispatcher.write0(java.base@17.0.15/Native Method)', own]],
    [
      'network-connect',
      [
        'sun.nio.ch.Net.connect0(java.base@17.0.15/Native Method)',
        'sun.nio.ch.NioSocketImpl.connect(java.base@17.0.15/NioSocketImpl.java:592)',
        own
      ]
    ],
    [
      'network-accept',
      [
        'sun.nio.ch.Net.accept(java.base@17.0.15/Native Method)',
        'sun.nio.ch.NioSocketImpl.accept(java.base@17.0.15/NioSocketImpl.java:755)',
        own
      ]
    ],
    ['file', ['java.io.FileInputStream.readBytes(java.base@17.0.15/Native Method)', own]],
    [
      'events',
      [
        'sun.nio.ch.EPoll.wait(java.base@17.0.15/Native Method)',
        'sun.nio.ch.EPollSelectorImpl.doSelect(java.base@17.0.15/EPollSelectorImpl.java:118)'
      ]
    ],
    ['condition', ['java.lang.Object.wait(java.base@17.0.15/Native Method)', own]],
    [
      'condition',
      [
        'jdk.internal.misc.Unsafe.park(java.base@17.0.15/Native Method)',
        'java.util.concurrent.locks.LockSupport.park(java.base@17.0.15/LockSupport.java:341)',
        'java.util.concurrent.CountDownLatch.await(java.base@17.0.15/CountDownLatch.java:230)',
        own
      ]
    ],
    [
      'lock',
      [
        'jdk.internal.misc.Unsafe.park(java.base@17.0.15/Native Method)',
        'java.util.concurrent.locks.LockSupport.park(java.base@17.0.15/LockSupport.java:211)',
        'java.util.concurrent.locks.ReentrantLock$Sync.lock(java.base@17.0.15/ReentrantLock.java:153)',
        own
      ]
    ],
    ['process', ['java.lang.ProcessHandleImpl.waitForProcessExit0(java.base@17.0.15/Native Method)', own]],
    ['computing', [own, 'java.lang.Thread.run(java.base@17.0.15/Thread.java:840)']],
    ['nothing', []]
  ])('%s', (expected, lines) => expect(doing(...lines)).toBe(expected));

  it('is waiting for the database where a driver reads from the network', () => {
    const read = 'sun.nio.ch.NioSocketImpl.tryRead(java.base@17.0.15/NioSocketImpl.java:261)';
    expect(doing(read, 'harbour.jdbc.Wire.receive(Wire.java:90)', own)).toBe('database');
    expect(doing(read, 'harbour.http.Wire.receive(Wire.java:90)', own)).toBe('network-read');
  });

  it('is computing where the program’s own code stands on top, whatever stands below it', () => {
    expect(doing(own, 'java.lang.Thread.sleep(java.base@17.0.15/Native Method)')).toBe('computing');
  });

  it('goes before the frames where the state is plain', () => {
    const { frames, stack } = stackOf(own);
    const thread = (mode: DumpThread['mode']): DumpThread =>
      ({ mode, frames: stack }) as unknown as DumpThread;
    expect(
      (['blocked', 'sleeping', 'waiting', 'running'] as const).map((mode) =>
        doingOfThread(frames, thread(mode))
      )
    ).toEqual(['lock', 'sleeping', 'condition', 'computing']);
    expect((['computing', 'lock', 'sleeping', 'nothing', 'file'] as const).map(modeOfDoing)).toEqual([
      'unknown',
      'blocked',
      'sleeping',
      'unknown',
      'waiting'
    ]);
  });
});

describe('names for people', () => {
  it('leave packages and outer classes out', () => {
    expect(placeWords(javaFrame(own))).toBe('Roster.sync (Roster.java:12)');
    expect(shortName('quillhaven.pilots.Roster$Sync.post')).toBe('Sync.post');
    expect(shortName('main.(*Quay).berth')).toBe('main.(*Quay).berth');
    expect(shortClass('java.util.concurrent.locks.ReentrantLock$NonfairSync')).toBe('ReentrantLock');
    expect(shortClass('java.lang.Class for quillhaven.pilots.Roster')).toBe('class Roster');
  });
  it('keep as many digits of locks as tell them apart', () => {
    expect(shortLock('0x000000070ff29c40')).toBe('0x…9c40');
    expect(shortLocks(['0x000000070ff29c40', '0x000000070fe29c40'])).toEqual(['0x…f29c40', '0x…e29c40']);
    expect(shortLock('java.lang.Object@1b2c')).toBe('@1b2c');
  });
});

describe('pools', () => {
  it('are recognised by the last number of a name', () => {
    expect(['http-worker-12', 'pool-2-thread-7', 'main', 'w1b'].map(poolPattern)).toEqual([
      'http-worker-*',
      'pool-2-thread-*',
      'main',
      'w*b'
    ]);
  });

  it('count who waits for work, who is at it, and of whom the dump does not tell', () => {
    const frames = [
      javaFrame(own),
      javaFrame('java.lang.Object.wait(java.base@17.0.15/Native Method)'),
      javaFrame(
        'java.util.concurrent.ThreadPoolExecutor.getTask(java.base@17.0.15/ThreadPoolExecutor.java:1062)'
      )
    ];
    const thread = (name: string, mode: DumpThread['mode'], ...stack: number[]): DumpThread =>
      ({ name, mode, frames: Int32Array.from(stack), system: false }) as unknown as DumpThread;
    const threads = [
      thread('worker-1', 'waiting', 1, 2),
      thread('worker-2', 'running', 0),
      thread('worker-3', 'waiting', 1, 0),
      thread('worker-4', 'blocked', 0),
      { ...thread('Signal', 'running'), system: true },
      thread('alone-9', 'running', 0)
    ];
    expect(threads.slice(0, 4).map((one) => isIdle(frames, one))).toEqual([true, false, null, false]);
    const [pool, alone, ...others] = poolsOf(frames, { threads });
    expect(pool).toMatchObject({
      pattern: 'worker-*',
      threads: [0, 1, 2, 3],
      idle: 1,
      undecided: 1,
      busy: 2
    });
    expect(pool.modes).toMatchObject({ waiting: 2, running: 1, blocked: 1 });
    // A thread that is alone keeps its name; the machine's own are no pool.
    expect([alone.pattern, others]).toEqual(['alone-9', []]);
  });
});
