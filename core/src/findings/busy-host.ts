import { meanOf } from '../counters/lines';
import { formatDuration, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { BUSY, busyStretch, processWords, timesOf, type FoundOnHost, type HostContext } from './host-finding';

/** Cores for most of a time in use: everything on the host gets slower, whoever uses them. */
export const busyHost = defineRule({
  rule: 'busy-host',
  name: 'Busy host',
  looksFor: 'A host whose cores were nearly all in use for a while.',
  thresholds: [BUSY],
  why: 'Requests take longer without doing more: their threads are ready and wait for a core.',
  doThis: [
    'Look at which process used the cores: one that serves requests is to be profiled, one that does not belongs elsewhere.',
    'Only then think of more cores.'
  ],
  seeAlso: 'profile',
  find
});

function find(context: HostContext): FoundOnHost[] {
  const line = context.lines.cpu;
  const stretch = busyStretch(line);
  if (!line || !stretch) return [];
  const level = meanOf(line, ...stretch)!;
  const times = timesOf(context, stretch);
  const [most] = context.processesIn(stretch).filter(({ cores }) => cores !== null);
  const of =
    most && most.cores !== null
      ? ` ${processWords(most)} used most of it, ${most.cores.toFixed(2)} cores.`
      : '';
  return [
    {
      title: 'Busy host',
      severity: level >= 0.95 ? 'high' : 'medium',
      sentence: `${context.host} had ${formatShare(level)} of its cores in use for ${formatDuration((times.toMs - times.fromMs) * 1e6)}.${of}`,
      remedy: most?.service
        ? `Record a CPU profile of ${most.service} on this host.`
        : 'Look at what used the cores before you look at the code.',
      figures: { share: level, cores: context.cores },
      ...times,
      ...(most && { pid: most.pid, ...(most.service && { service: most.service }) })
    }
  ];
}
