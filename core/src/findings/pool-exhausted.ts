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
  name: 'Thread pool exhausted',
  looksFor: 'Threads with one name pattern, nearly all of them busy or blocked.',
  thresholds: [
    {
      name: 'pool',
      value: `${POOL_MIN_SIZE} threads or more`,
      why: 'Fewer threads with similar names are hardly a pool. Common practice.'
    },
    {
      name: 'busy',
      value: `${formatShare(USED_UP_SHARE)} or more`,
      why: 'The next task hardly finds a free thread. Common practice.'
    }
  ],
  why: 'Work queues up in front of the pool, where no trace and no profile shows it.',
  doThis: ['Remove what blocks the threads. More threads help only if it can take more at once.'],
  find
});

function find(context: ThreadContext): FoundInThreads[] {
  const { series, pools, dump } = context;
  const { threads } = series.dumps[dump];
  return pools[dump].filter(isUsedUp).map((pool) => {
    const [most] = stackGroups(series.dumps[dump], Infinity, pool.threads);
    const place = placeOf(series.frames, threads[most.threads[0]]);
    const where = place
      ? ` ${formatCount(most.threads.length)} of its threads stand at ${placeWords(place)}.`
      : '';
    return {
      title: 'Thread pool exhausted',
      severity: severityOf(pool.busy, programThreads(context)),
      sentence: `${plainText(poolSentence(pool))}${where}`,
      remedy:
        pool.modes.blocked * 2 >= pool.busy
          ? 'More threads would only lengthen the queue: remove what blocks them.'
          : 'Look at what the threads are busy with. More threads help only if they wait for something that can take more at once.',
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
