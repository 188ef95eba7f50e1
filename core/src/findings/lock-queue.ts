import { defineRule } from './define-rule';
import { plainText } from '../text/words';
import { placeOf } from '../threads/places';
import { rootSentence } from '../threads/reading';
import { severityOf } from './finding';
import {
  EVIDENCE_THREADS,
  placeEvidence,
  programThreads,
  type ThreadContext,
  type FoundInThreads
} from './thread-finding';

/** One thread that waits for a lock is what locks are for; from two on there is a queue. Common practice. */
export const QUEUE_MIN_THREADS = 2;

/** A thread that holds up others while it holds a lock. */
export const lockQueue = defineRule({
  rule: 'lock-queue',
  name: 'Queue for one lock',
  looksFor:
    'Threads that wait, directly or behind others, for a lock that one thread holds, and what that thread does meanwhile.',
  thresholds: [
    {
      name: 'threads waiting',
      value: `${QUEUE_MIN_THREADS} or more`,
      why: 'One waiting thread is what locks are for; two or more are a queue. Common practice.'
    }
  ],
  why: 'However many threads there are, they run one at a time here, and every request behind them waits.',
  doThis: ['Move slow work out of the lock, or split what it protects.'],
  find
});

function find(context: ThreadContext): FoundInThreads[] {
  const { series, waits, dump } = context;
  const { threads, locks } = series.dumps[dump];
  const all = programThreads(context);
  return waits[dump].rootBlockers
    .filter(({ transitive }) => transitive >= QUEUE_MIN_THREADS)
    .map((root) => {
      const holder = threads[root.thread];
      return {
        title: 'Queue for one lock',
        severity: severityOf(root.transitive, all),
        sentence: plainText(rootSentence(series.frames, series.dumps[dump], root)),
        remedy:
          'Move slow work (network, disk, database, computation) out of the lock and hold it only to read or change what it protects; or split what it protects, so that fewer threads want the same lock.',
        figures: { direct: root.direct, transitive: root.transitive, threads: all },
        evidence: {
          dump,
          threads: [
            holder.name,
            ...root.waiting.slice(0, EVIDENCE_THREADS).map((thread) => threads[thread].name)
          ],
          lock: locks[root.lock].id,
          at: placeEvidence(placeOf(series.frames, holder))
        },
        cost: root.transitive,
        thread: root.thread
      };
    });
}
