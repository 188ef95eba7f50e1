import { meanOf } from '../counters/lines';
import { longestOf, stretchesWhere } from '../counters/stretches';
import { formatCount } from '../text/format';
import { defineRule } from './define-rule';
import { timesOf, type FoundOnHost, type HostContext } from './host-finding';

/** Pages a second that go to or come from the swap space. */
const LEAST_PAGES = 50;

/** Memory is short, and what is needed is fetched from a disk. */
export const swapping = defineRule({
  rule: 'swapping',
  name: 'Swapping',
  looksFor: 'A host that moves memory to and from its swap space all the time.',
  thresholds: [
    {
      name: 'pages',
      value: `${LEAST_PAGES} a second or more, in three bins in a row or more`,
      why: 'A few pages a second are what the kernel tidies away; so many are waited for. Common practice.'
    }
  ],
  why: 'Each page that is missing stops a thread for as long as the disk takes, in code that only reads memory.',
  doThis: ['Look at which process grew.', 'Give the host more memory, or its processes less.'],
  find
});

function find(context: HostContext): FoundOnHost[] {
  const line = context.swapping;
  const stretch = line && longestOf(stretchesWhere(line.length, (bin) => (line[bin] ?? 0) >= LEAST_PAGES));
  if (!stretch) return [];
  const level = meanOf(line, ...stretch)!;
  return [
    {
      title: 'Swapping',
      severity: 'high',
      sentence: `${context.host} moved ${formatCount(Math.round(level))} pages a second to and from its swap space.`,
      remedy: 'Look at which process grew before anything else.',
      figures: { pages: level },
      ...timesOf(context, stretch)
    }
  ];
}
