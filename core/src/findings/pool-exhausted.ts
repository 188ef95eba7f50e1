import { defineRule } from './define-rule';
import { plainText } from '../text/words';
import { isUsedUp, POOL_MIN_SIZE, poolSentence, USED_UP_SHARE } from '../threads/reading';
import { placeOf, placeWords } from '../threads/places';
import { stackGroups } from '../threads/groups';
import { formatCount, formatShare } from '../text/format';
import { severityOf } from './finding';
import {
  EVIDENCE_THREADS,
  placeEvidence,
  programThreads,
  type ThreadContext,
  type FoundInThreads
} from './thread-finding';

/** A pool whose threads are nearly all busy or held up: whatever comes next waits for one of them. */
export const poolExhausted = defineRule({
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
  doThis: ['Free what the threads are held up by. More threads help only where that can bear more at once.'],
  find
});

function find(context: ThreadContext): FoundInThreads[] {
  const { series, pools, dump } = context;
  const { threads } = series.dumps[dump];
  return pools[dump].filter(isUsedUp).map((pool) => {
    const [most] = stackGroups(series.dumps[dump], Infinity, pool.threads);
    const place = placeOf(series.frames, threads[most.threads[0]]);
    const where = place ? ` ${formatCount(most.threads.length)} of them stand at ${placeWords(place)}.` : '';
    return {
      title: 'A pool is used up',
      severity: severityOf(pool.busy, programThreads(context)),
      sentence: `${plainText(poolSentence(pool))}${where}`,
      remedy:
        pool.modes.blocked * 2 >= pool.busy
          ? 'More threads would only make the queue longer: free what they are held up by.'
          : 'Look at what the threads are busy with. More threads help only where they wait for something that can bear more at once.',
      figures: { size: pool.threads.length, busy: pool.busy, blocked: pool.modes.blocked, idle: pool.idle },
      evidence: {
        dump,
        threads: most.threads.slice(0, EVIDENCE_THREADS).map((thread) => threads[thread].name),
        lock: null,
        at: placeEvidence(place)
      },
      cost: pool.busy,
      thread: most.threads[0]
    };
  });
}
