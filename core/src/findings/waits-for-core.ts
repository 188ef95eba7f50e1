import type { Stretch } from '../counters/stretches';
import { formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { processWords, timesOf, type FoundOnHost, type HostContext } from './host-finding';

/** Seconds a second a process waits for a core at the least. */
const LEAST_WAITS = 0.1;

/** A service is ready to run, and the kernel lets others run. */
export const waitsForCore = defineRule({
  rule: 'waits-for-core',
  name: 'Waits for a core',
  looksFor: 'A process that serves requests and was ready to run, but had to wait for a core.',
  thresholds: [
    {
      name: 'waits',
      value: `${LEAST_WAITS * 100} % of the time or more`,
      why: 'Below it the waits are the short ones that sharing cores always brings. Common practice.'
    }
  ],
  why: 'No profile shows that time: the code does not run while it waits, and every request of the process takes longer.',
  doThis: [
    'Look at what runs beside it, and at the limits of its container.',
    'If it is alone, it has more threads to run than cores.'
  ],
  find
});

function find(context: HostContext): FoundOnHost[] {
  const whole: Stretch = [0, context.bins];
  return context
    .processesIn(whole)
    .filter(({ service, waits }) => service !== '' && (waits ?? 0) >= LEAST_WAITS)
    .map((process): FoundOnHost => ({
      title: `${process.service} waits for a core`,
      severity: process.waits! >= 0.3 ? 'high' : 'medium',
      sentence: `${processWords(process)} of ${process.service} was ready to run and waited for a core for ${formatShare(process.waits!)} of the time on ${context.host}${process.cores === null ? '' : `; it ran on ${process.cores.toFixed(2)} cores`}.`,
      remedy: 'See what runs beside it before you make its code faster.',
      figures: { waits: process.waits, cores: process.cores },
      ...timesOf(context, whole),
      pid: process.pid,
      service: process.service
    }));
}
