import { describe, expect, it } from 'vitest';
import { readJvmText } from '@tromix/core/threads/jvm-text';
import { isIdleDaemon, matching, THREADS_PARAMS } from './threads-state';

const thread = (name: string, daemon: boolean, ...frames: string[]): string =>
  [
    `"${name}" #7 ${daemon ? 'daemon ' : ''}prio=5 os_prio=0 cpu=1.00ms elapsed=1.00s tid=0x00007f0000000001 nid=0x1 waiting  [0x00007f10415fe000]`,
    '   java.lang.Thread.State: WAITING (parking)',
    ...frames.map((frame) => `\tat ${frame}`),
    ''
  ].join('\n');
const PARKED = 'jdk.internal.misc.Unsafe.park(Native Method)';
const TAKES = 'java.util.concurrent.LinkedBlockingQueue.take(LinkedBlockingQueue.java:435)';
const text = [
  '2026-11-24 09:27:00',
  'Full thread dump OpenJDK 64-Bit Server VM (17.0.15 mixed mode, sharing):',
  '',
  thread('idle-1', true, PARKED, TAKES),
  thread('waits-1', false, PARKED, TAKES),
  thread('works-1', true, 'quillhaven.pilots.Roster.sync(Roster.java:12)', TAKES),
  ''
].join('\n');
const { frames, dumps } = readJvmText(text).series;
const { threads } = dumps[0];
const names = (query: string): string[] =>
  matching(frames, threads, THREADS_PARAMS.read(new URLSearchParams(query))).map((i) => threads[i].name);

describe('which threads are listed', () => {
  it('folds daemons that wait for work, and no other', () => {
    expect(threads.map((one) => isIdleDaemon(frames, one))).toEqual([true, false, false]);
    expect(names('')).toEqual(['waits-1', 'works-1']);
    expect(names('daemons=1')).toEqual(['idle-1', 'waits-1', 'works-1']);
  });
  it('shows a pool that is asked for whole', () => expect(names('pool=idle-1')).toEqual(['idle-1']));
  it('keeps those with a frame of a package', () => {
    expect(names('package=quillhaven.pilots')).toEqual(['works-1']);
    expect(names('package=java.util.concurrent')).toEqual(['waits-1', 'works-1']);
    expect(names('package=pilots')).toEqual([]);
  });
  it('stands in the address and comes back from it', () => {
    const query = new URLSearchParams(
      'other=1&package=quillhaven.pilots&daemons=1&mode=waiting&unfold=a&unfold=b'
    );
    expect([...THREADS_PARAMS.write(query, THREADS_PARAMS.read(query))].sort()).toEqual([...query].sort());
  });
});
