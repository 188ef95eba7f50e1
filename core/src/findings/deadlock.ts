import { plainText } from '../text/words';
import { placeOf } from '../threads/places';
import { deadlockSentence } from '../threads/reading';
import { severityOf } from './finding';
import { placeEvidence, programThreads, type ThreadContext, type ThreadFinding } from './thread-finding';

/** Threads that wait for each other in a circle. */
export function deadlock(context: ThreadContext): ThreadFinding[] {
  const { series, waits, dump } = context;
  const { threads, locks } = series.dumps[dump];
  const all = programThreads(context);
  return waits[dump].deadlocks.map((cycle) => ({
    rule: 'deadlock',
    title: 'A deadlock',
    severity: severityOf(cycle.threads.length + cycle.behind, all),
    sentence: plainText(deadlockSentence(series.dumps[dump], cycle)),
    remedy:
      'Take the locks in the same order everywhere, or hold only one of them at a time. Until then only a restart frees these threads.',
    figures: { threads: cycle.threads.length, behind: cycle.behind },
    evidence: {
      dump,
      threads: cycle.threads.map((thread) => threads[thread].name),
      lock: locks[cycle.locks[0]].id,
      at: placeEvidence(placeOf(series.frames, threads[cycle.threads[0]]))
    },
    cost: cycle.threads.length + cycle.behind,
    thread: cycle.threads[0]
  }));
}
