import { defineRule } from './define-rule';
import { formatCount } from '../text/format';
import { plainText } from '../text/words';
import { placeOf } from '../threads/places';
import { deadlockSentence } from '../threads/reading';
import { severityOf } from './finding';
import { ALL_ASLEEP } from '../threads/go-text';
import {
  EVIDENCE_THREADS,
  placeEvidence,
  programThreads,
  type ThreadContext,
  type FoundInThreads
} from './thread-finding';

/** Threads that wait for each other in a circle. */
export const deadlock = defineRule({
  rule: 'deadlock',
  name: 'Deadlock',
  looksFor: 'Threads that wait for each other in a cycle, through the locks they hold and want.',
  thresholds: [],
  why: 'None can continue before another does. They wait until the process ends, and so does everything behind them.',
  doThis: ['Take the locks in the same order everywhere, or one at a time.'],
  find
});

function find(context: ThreadContext): FoundInThreads[] {
  const { series, waits, dump } = context;
  const { threads, locks } = series.dumps[dump];
  const all = programThreads(context);
  const cycles = waits[dump].deadlocks.map((cycle): FoundInThreads => ({
    title: 'Deadlock',
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
  return cycles.length === 0 && series.dumps[dump].notes.includes(ALL_ASLEEP) ? [allAsleep(context)] : cycles;
}

/** What Go's runtime found itself: it names no owners, so there is no circle to show. */
function allAsleep(context: ThreadContext): FoundInThreads {
  const { series, dump } = context;
  const { threads } = series.dumps[dump];
  const all = programThreads(context);
  const blocked = threads.findIndex(({ mode }) => mode === 'blocked');
  const thread = Math.max(0, blocked);
  return {
    title: 'Deadlock',
    severity: severityOf(all, all),
    sentence: `The Go runtime ended the process because all ${formatCount(all)} goroutines were asleep and none could continue. Go does not record who owns a lock, so who waits for whom is unknown.`,
    remedy:
      'Look at the lines where goroutines wait for locks and channels: each needs another one to continue. Take locks in the same order everywhere.',
    figures: { threads: all, behind: 0 },
    evidence: {
      dump,
      threads: threads.slice(0, EVIDENCE_THREADS).map(({ name }) => name),
      lock: null,
      at: placeEvidence(placeOf(series.frames, threads[thread]))
    },
    cost: all,
    thread
  };
}
