import { plainText } from '../text/words';
import { isUsedUp, poolSentence } from '../threads/reading';
import { placeOf, placeWords } from '../threads/places';
import { stackGroups } from '../threads/groups';
import { formatCount } from '../text/format';
import { severityOf } from './finding';
import {
  EVIDENCE_THREADS,
  placeEvidence,
  programThreads,
  type ThreadContext,
  type ThreadFinding
} from './thread-finding';

/** A pool whose threads are nearly all busy or held up: whatever comes next waits for one of them. */
export function poolExhausted(context: ThreadContext): ThreadFinding[] {
  const { series, pools, dump } = context;
  const { threads } = series.dumps[dump];
  return pools[dump].filter(isUsedUp).map((pool) => {
    const [most] = stackGroups(series.dumps[dump], Infinity, pool.threads);
    const place = placeOf(series.frames, threads[most.threads[0]]);
    const where = place ? ` ${formatCount(most.threads.length)} of them stand at ${placeWords(place)}.` : '';
    return {
      rule: 'pool-exhausted',
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
