import { formatCount, formatDuration, formatShare, plural } from '../text/format';
import { words, type Words } from '../text/words';
import { doingOfThread, DOING_WORDS } from './doing';
import type { DumpThread, ThreadDump, ThreadFrame } from './model';
import { placeOf, placeWords, shortClass, shortLocks } from './places';
import type { Pool } from './pools';
import type { Deadlock, RootBlocker, WaitsFor } from './waits-for';

/** What is said in words of one dump, most important first. */
export function threadsReading(
  frames: readonly ThreadFrame[],
  dump: ThreadDump,
  waits: WaitsFor,
  pools: readonly Pool[]
): Words[] {
  const sentences = [
    ...waits.deadlocks.map((deadlock) => deadlockSentence(dump, deadlock)),
    ...waits.rootBlockers.slice(0, MOST_ROOTS).map((root) => rootSentence(frames, dump, root))
  ];
  if (waits.rootBlockers.length > MOST_ROOTS)
    sentences.push([
      `${plural(waits.rootBlockers.length - MOST_ROOTS, 'further lock')} have threads waiting.`
    ]);
  const unknown = waits.ownerless.filter((i) => !waits.queues[i].condition);
  for (const i of unknown.slice(0, MOST_ROOTS)) {
    const { lock, waiting } = waits.queues[i];
    sentences.push(
      words`${[plural(waiting.length, 'thread')]} ${waiting.length === 1 ? 'waits' : 'wait'} for a ${shortClass(dump.locks[lock].className) || 'lock'} that is held by no thread named in this dump.`
    );
  }
  if (sentences.length === 0)
    sentences.push([
      dump.locks.length > 0
        ? 'No thread waits for a lock that another one holds.'
        : 'This dump names no locks, so who waits for whom is unknown.'
    ]);
  const used = pools.filter(isUsedUp).slice(0, MOST_ROOTS);
  for (const pool of used) sentences.push(poolSentence(pool));
  const hottest = hottestThread(dump);
  if (hottest) sentences.push(hottest);
  return sentences;
}

const MOST_ROOTS = 3;

/** `15 threads wait, directly or behind others, for a lock held by X, which stands at …, writing to a socket while it holds it.` */
export function rootSentence(
  frames: readonly ThreadFrame[],
  dump: ThreadDump,
  { thread, lock, direct, transitive }: RootBlocker
): Words {
  const holder = dump.threads[thread];
  const place = placeOf(frames, holder);
  const what = shortClass(dump.locks[lock].className);
  const how = transitive === 1 ? 'waits' : transitive > direct ? 'wait, directly or behind others,' : 'wait';
  const meanwhile = place
    ? `, which stands at ${placeWords(place)}, ${doingWords(frames, holder)} while it holds it.`
    : ', with no stack recorded.';
  return words`${[plural(transitive, 'thread')]} ${how} for a lock${what ? ` (${what})` : ''} held by ${[holder.name]}${meanwhile}`;
}

function doingWords(frames: readonly ThreadFrame[], thread: DumpThread): string {
  return DOING_WORDS[doingOfThread(frames, thread)];
}

/** Names each lock's place in the order, which is what has to be changed. */
export function deadlockSentence(
  { threads, locks }: ThreadDump,
  { threads: cycle, locks: wanted, behind }: Deadlock
): Words {
  const short = shortLocks(wanted.map((lock) => locks[lock].id));
  const lockWords = (i: number): string => `${shortClass(locks[wanted[i]].className) || 'lock'} ${short[i]}`;
  const steps = cycle.slice(0, MOST_IN_SENTENCE).flatMap((thread, i) => {
    const held = lockWords((i - 1 + cycle.length) % cycle.length);
    return words`${i > 0 ? '; ' : ''}${[threads[thread].name]} holds ${held} and waits for ${lockWords(i)}`;
  });
  const more =
    cycle.length > MOST_IN_SENTENCE ? `; and ${formatCount(cycle.length - MOST_IN_SENTENCE)} more` : '';
  const queue =
    behind > 0 ? ` ${plural(behind, 'further thread')} ${behind === 1 ? 'waits' : 'wait'} behind them.` : '';
  const who = cycle.length === 2 ? 'Two threads' : `${formatCount(cycle.length)} threads`;
  return [[who], ' are deadlocked and will wait for ever: ', ...steps, `${more}.${queue}`];
}

const MOST_IN_SENTENCE = 6;

/** A part of a pool from which it is said to be used up: what comes next has to wait. Common practice. */
export const USED_UP_SHARE = 0.8;
/** Fewer threads with similar names are hardly a pool. Common practice. */
export const POOL_MIN_SIZE = 3;

export function isUsedUp({ executor, threads, busy }: Pool): boolean {
  return executor && threads.length >= POOL_MIN_SIZE && busy >= USED_UP_SHARE * threads.length;
}

export function poolSentence({ pattern, threads, busy, modes, idle, undecided }: Pool): Words {
  const held = modes.blocked > 0 ? `, ${formatCount(modes.blocked)} of them blocked` : '';
  const rest = [
    ...(idle > 0 ? [`${formatCount(idle)} wait for work`] : []),
    ...(undecided > 0 ? [`${formatCount(undecided)} wait for something in the program’s own code`] : [])
  ];
  return words`${[pattern]}: ${formatCount(busy)} of ${formatCount(threads.length)} threads are busy${held}${rest.length > 0 ? `; ${rest.join(', ')}` : ''}.`;
}

/** From this part of its life on a thread is said to have had a core. */
const HOT_SHARE = 0.5;
/** A thread that began just now proves nothing. */
const HOT_MIN_ELAPSED_MS = 1000;

function hottestThread({ threads }: ThreadDump): Words | null {
  let best: DumpThread | null = null;
  for (const thread of threads) {
    if (thread.system || thread.cpuMs === null || (thread.elapsedMs ?? 0) < HOT_MIN_ELAPSED_MS) continue;
    if (!best || thread.cpuMs / thread.elapsedMs! > best.cpuMs! / best.elapsedMs!) best = thread;
  }
  if (!best || best.cpuMs! < HOT_SHARE * best.elapsedMs!) return null;
  return words`${[best.name]} used ${formatShare(best.cpuMs! / best.elapsedMs!)} of one core over its ${formatDuration(best.elapsedMs! * 1e6)}.`;
}
