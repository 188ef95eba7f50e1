import { formatShare } from '../text/format';
import { POOL_MIN_SIZE, USED_UP_SHARE } from '../threads/reading';
import { QUEUE_MIN_THREADS } from './lock-queue';
import type { RuleText } from './rules';
import { STUCK_MIN_DUMPS } from './stuck-across-dumps';
import type { ThreadRule } from './thread-finding';

/** Every rule about thread dumps, in the order they are listed. */
export const THREAD_RULES: readonly RuleText<ThreadRule>[] = [
  {
    rule: 'lock-queue',
    name: 'A queue for one lock',
    looksFor:
      'Threads that wait, directly or behind others, for a lock that one thread holds; and what that thread does meanwhile.',
    thresholds: [
      {
        name: 'threads waiting',
        value: `${QUEUE_MIN_THREADS} or more`,
        why: 'One that waits is what locks are for; from two on there is a queue. Common practice.'
      }
    ],
    why: 'However many threads there are, they work one at a time here, and every request behind them waits for the slowest.',
    doThis: 'Do what takes long outside the lock, or part what it protects.'
  },
  {
    rule: 'deadlock',
    name: 'A deadlock',
    looksFor: 'Threads that wait for each other in a circle, by the locks they hold and want.',
    thresholds: [],
    why: 'None of them can go on before another does: they wait until the process ends, and so does everything behind them.',
    doThis: 'Take the locks in the same order everywhere, or one at a time.'
  },
  {
    rule: 'stuck-across-dumps',
    name: 'It does not move',
    looksFor:
      'A thread with the same stack, to the line, in several dumps of one process, which neither waits for work nor for a lock another thread holds.',
    thresholds: [
      {
        name: 'dumps in a row',
        value: `${STUCK_MIN_DUMPS} or more`,
        why: 'Two alike may be chance: a line that takes long is met twice. Common practice.'
      }
    ],
    why: 'It waits for something that does not come, or goes round without an end; its CPU time tells which.',
    doThis: 'Give the wait a limit; or record CPU samples where it computes.'
  },
  {
    rule: 'pool-exhausted',
    name: 'A pool is used up',
    looksFor: 'Threads of one name pattern that are nearly all busy or held up.',
    thresholds: [
      {
        name: 'pool',
        value: `${POOL_MIN_SIZE} threads or more`,
        why: 'Fewer alike names are not called a pool. Common practice.'
      },
      {
        name: 'busy',
        value: `${formatShare(USED_UP_SHARE)} or more`,
        why: 'What comes next finds hardly a thread free. Common practice.'
      }
    ],
    why: 'Work queues up in front of the pool, where no trace and no profile shows it.',
    doThis: 'Free what the threads are held up by. More threads help only where that can bear more at once.'
  }
];
