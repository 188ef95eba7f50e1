import { greatestOf } from '../counters/lines';
import { longestOf, stretchesWhere } from '../counters/stretches';
import { formatDuration } from '../text/format';
import { defineRule } from './define-rule';
import { timesOf, type FoundOnHost, type HostContext } from './host-finding';

/** Delay of the event loop at the 99th percentile, seconds. */
const LEAST_DELAY_S = 0.1;

/** One piece of work holds the one thread that serves everybody. */
export const eventLoopHeld = defineRule({
  rule: 'event-loop-held',
  name: 'Event loop held',
  looksFor: 'A process whose event loop came late again and again.',
  thresholds: [
    {
      name: 'delay',
      value: `${LEAST_DELAY_S * 1000} ms or more at the 99th percentile, in three bins in a row or more`,
      why: 'A tenth of a second is what a person notices; every request of the process has it added.'
    }
  ],
  why: 'While one request computes, no other of the process gets on, however short it is.',
  doThis: [
    'Record a CPU profile, and look for the longest stretches without a break.',
    'Move the work to a thread of its own, or part it.'
  ],
  seeAlso: 'profile',
  find
});

function find(context: HostContext): FoundOnHost[] {
  return context.loops.flatMap(({ service, pid, line }): FoundOnHost[] => {
    const stretch = longestOf(stretchesWhere(line.length, (bin) => (line[bin] ?? 0) >= LEAST_DELAY_S));
    if (!stretch) return [];
    const most = greatestOf(line, ...stretch) ?? 0;
    const times = timesOf(context, stretch);
    const name = service || (pid > 0 ? `process ${pid}` : 'a process');
    return [
      {
        title: 'Event loop held',
        severity: most >= 0.5 ? 'high' : 'medium',
        sentence: `The event loop of ${name} on ${context.host} was late by up to ${formatDuration(most * 1e9)} (99th percentile) for ${formatDuration((times.toMs - times.fromMs) * 1e6)}.`,
        remedy: 'Record a CPU profile of the process while it lasts.',
        figures: { delaySeconds: most },
        ...times,
        ...(pid > 0 && { pid }),
        ...(service && { service })
      }
    ];
  });
}
