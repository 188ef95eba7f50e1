import { defineRule } from './define-rule';
import { groupBy } from '../group-by';
import { formatCount, formatDuration, plural } from '../text/format';
import { stuckThreads, type StuckThread } from '../threads/across';
import { DOING_WORDS, doingOfThread } from '../threads/doing';
import { isIdle } from '../threads/pools';
import { placeOf, placeWords } from '../threads/places';
import { severityOf } from './finding';
import {
  EVIDENCE_THREADS,
  placeEvidence,
  programThreads,
  type ThreadContext,
  type FoundInThreads
} from './thread-finding';

/** Two dumps alike may be chance: a line that takes long is met twice. Common practice is three. */
export const STUCK_MIN_DUMPS = 3;

/**
 * Threads that stand at the same line in dump after dump, without waiting for a lock somebody else holds (those are the
 * queue's) or for work.
 */
export const stuckAcrossDumps = defineRule({
  rule: 'stuck-across-dumps',
  name: 'Stuck thread',
  looksFor:
    'A thread with the same stack, to the line, in several dumps of one process, that waits neither for work nor for a lock held by another thread.',
  thresholds: [
    {
      name: 'dumps in a row',
      value: `${STUCK_MIN_DUMPS} or more`,
      why: 'Two may be chance: a slow line is likely to be seen twice. Common practice.'
    }
  ],
  why: 'It waits for something that does not come, or loops without end; its CPU time shows which.',
  doThis: ['Set a timeout for the wait; if it computes, record CPU samples.'],
  find
});

function find(context: ThreadContext): FoundInThreads[] {
  const { series, waits } = context;
  const stuck = stuckThreads(series, context.across).filter(({ dump, thread, sameFor }) => {
    if (sameFor < STUCK_MIN_DUMPS) return false;
    const queue = waits[dump].queueOf[thread];
    if (queue >= 0 && waits[dump].queues[queue].owners.length > 0) return false;
    const standing = series.dumps[dump].threads[thread];
    // A job that sleeps between its runs sleeps in every dump; one that sleeps while others wait for its lock is worth a word.
    if (standing.mode === 'sleeping' && waits[dump].heldQueues[thread].length === 0) return false;
    return isIdle(series.frames, standing) === false;
  });
  const alike = groupBy(stuck, ({ dump, thread }) => series.dumps[dump].threads[thread].frames.join(' '));
  return [...alike.values()].map((members) => stuckFinding(context, members));
}

function stuckFinding(context: ThreadContext, members: readonly StuckThread[]): FoundInThreads {
  const { series } = context;
  const [{ dump, thread, sameFor, computing, cpuMs, name }] = members;
  const standing = series.dumps[dump].threads[thread];
  const place = placeOf(series.frames, standing)!;
  const cpu =
    computing === null
      ? 'The dumps do not show whether it computes'
      : computing
        ? `Its CPU time moved by ${formatDuration((cpuMs ?? 0) * 1e6)}: it computes, perhaps in a loop without an end`
        : `Its CPU time hardly moved: it waits (${DOING_WORDS[doingOfThread(series.frames, standing)]})`;
  const who = members.length === 1 ? name : `${name} and ${plural(members.length - 1, 'other')}`;
  return {
    title: 'Stuck thread',
    severity: severityOf(members.length, programThreads(context)),
    sentence: `${who} ${members.length === 1 ? 'stands' : 'stand'} at ${placeWords(place)} in ${formatCount(sameFor)} dumps in a row, with the same stack to the line. ${cpu}.`,
    remedy: computing
      ? 'Record CPU samples of the process: they show which lines loop.'
      : 'Look at what it waits for, and set a timeout for it.',
    figures: {
      threads: members.length,
      dumps: sameFor,
      cpuMs,
      computing: computing === null ? null : String(computing)
    },
    evidence: {
      dump,
      threads: members.slice(0, EVIDENCE_THREADS).map((member) => member.name),
      lock: null,
      at: placeEvidence(place)
    },
    cost: members.length,
    thread
  };
}
