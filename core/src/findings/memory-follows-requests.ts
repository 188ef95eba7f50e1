import { linearFit } from '../stats/linear-fit';
import { rankCorrelation } from '../stats/rank-correlation';
import { formatBytes, formatCount, plural } from '../text/format';
import { defineRule } from './define-rule';
import { timesOf, type FoundOnHost, type HostContext, type HostMemory } from './host-finding';

/** Bins in which both are known, at the least. */
const LEAST_BINS = 20;
/** Rank correlation, at the least. */
const LEAST_CORRELATION = 0.8;
/** The memory grows by so much of its least at the least. */
const LEAST_GROWTH = 0.25;

/** What requests hold while they are under way is what fills the memory. */
export const memoryFollowsRequests = defineRule({
  rule: 'memory-follows-requests',
  name: 'Memory follows requests',
  looksFor: 'A service whose memory rises and falls with its requests under way.',
  thresholds: [
    {
      name: 'together',
      value: `rank correlation of ${LEAST_CORRELATION} or more over at least ${LEAST_BINS} bins`,
      why: 'Both rise by day anyway: only what follows closely, up and down, says that one holds the other.'
    },
    {
      name: 'growth',
      value: `${LEAST_GROWTH * 100} % of the least or more`,
      why: 'What moves less is the collector at work.'
    }
  ],
  why: 'Each request under way holds what it has read; when many are, or they take long, the memory runs out.',
  doThis: [
    'Read and answer in pieces instead of holding the whole.',
    'Limit how many requests are under way at once.',
    'A heap dump under load shows what they hold.'
  ],
  find
});

function find(context: HostContext): FoundOnHost[] {
  return context.memories.flatMap((memory): FoundOnHost[] => {
    const both = knownPairs(memory);
    if (both.length < LEAST_BINS) return [];
    const [underWay, bytes] = [both.map(([count]) => count), both.map(([, held]) => held)];
    const correlation = rankCorrelation(underWay, bytes);
    const [least, most] = [Math.min(...bytes), Math.max(...bytes)];
    const line = linearFit(underWay, bytes);
    if (correlation === null || correlation < LEAST_CORRELATION || most - least < LEAST_GROWTH * least)
      return [];
    if (!line || line.slope <= 0) return [];
    const [fewest, busiest] = [Math.min(...underWay), Math.max(...underWay)];
    return [
      {
        title: `Memory of ${memory.service} follows its requests`,
        severity: most >= 2 * least ? 'high' : 'medium',
        sentence: `The memory of ${memory.service} on ${context.host} rises and falls with its requests under way, from ${formatBytes(least)} to ${formatBytes(most)} while ${count(fewest)} to ${count(busiest)} of them are: about ${formatBytes(line.slope)} for each (rank correlation ${correlation.toFixed(2)} over ${plural(both.length, 'bin')}).`,
        remedy: 'Take a heap dump under load: what requests hold is in it.',
        figures: { correlation, bytesPerRequest: line.slope },
        ...timesOf(context, [0, context.bins]),
        service: memory.service
      }
    ];
  });
}

const count = (value: number): string => (value >= 10 ? formatCount(Math.round(value)) : value.toFixed(1));

function knownPairs({ bytes, underWay }: HostMemory): [underWay: number, bytes: number][] {
  return bytes.flatMap((held, bin): [number, number][] => {
    const of = underWay[bin];
    return held === null || of === null || of === undefined ? [] : [[of, held]];
  });
}
