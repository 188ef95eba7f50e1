import { binsOver, type LoadBin } from '../load/over-time';
import { isOpen } from '../load/plan';
import { formatDuration, formatFigure } from '../text/format';
import { defineRule } from './define-rule';
import { severityOf } from './finding';
import type { FoundInLoad, LoadContext } from './load-finding';

/** A stretch is crowded from this part of the most that were under way at once, and calm up to that one. */
const CROWDED_FROM = 0.75;
const CALM_UP_TO = 0.5;
/** So many times as many are under way. */
const MIN_CROWDING = 1.5;
/** How far throughput follows: 1 where twice as many under way give twice the answers, 0 where they give no more. */
const MAX_FOLLOWS = 0.25;
/** Requests in each of the two. */
const MIN_REQUESTS = 20;

/** Response time grows with the queue. */
export const pilesUp = defineRule({
  rule: 'piles-up',
  name: 'Requests pile up',
  looksFor:
    'A run in which more requests under way give no more answers per second, so that each of them only waits longer (Little’s law).',
  thresholds: [
    {
      name: 'requests under way',
      value: `${MIN_CROWDING} × as many or more`,
      why: 'With less between calm and crowded stretches, chance decides.'
    },
    {
      name: 'throughput',
      value: `follows by ${MAX_FOLLOWS} or less`,
      why: 'By Little’s law the time then grows by nearly as much as the number under way: 1 means no queue at all, 0 nothing but a queue.'
    },
    {
      name: 'requests',
      value: `${MIN_REQUESTS} or more in calm and in crowded stretches`,
      why: 'Fewer do not tell how many answers per second there are.'
    }
  ],
  why: 'Something serves one request after another: a lock, a connection pool, one busy thread. Whoever comes later waits for all before.',
  doThis: [
    'Find what they queue for: record a CPU profile or a thread dump while it is crowded, and look at the ledger of a slow request of the run.',
    'Make that part shorter, or let it serve several at once.',
    'Until then allow no more at once than give full throughput.'
  ],
  seeAlso: 'profile',
  find
});

interface Stretch {
  requests: number;
  underWay: number;
  throughput: number;
  timeSeconds: number;
}

/** Some stretches together. By Little’s law the mean time is what is under way, divided by throughput. */
function together(bins: readonly LoadBin[], seconds: number): Stretch {
  const requests = bins.reduce((sum, { throughput }) => sum + throughput * seconds, 0);
  const underWay = bins.reduce((sum, bin) => sum + bin.underWay, 0) / bins.length;
  const throughput = requests / (bins.length * seconds);
  return { requests, underWay, throughput, timeSeconds: underWay / throughput };
}

function find({ plan, samples, endUs }: LoadContext): FoundInLoad[] {
  const { seconds, bins } = binsOver(samples, isOpen(plan), endUs);
  const whole = bins.filter(({ atSeconds }) => (atSeconds + seconds) * 1e6 <= endUs);
  const most = whole.reduce((greatest, { underWay }) => Math.max(greatest, underWay), 0);
  // What still is under way at the end ends without new ones coming: that says nothing of a crowd.
  const last = whole.findLastIndex(({ underWay }) => underWay >= CROWDED_FROM * most);
  const before = whole.slice(0, last + 1).filter(({ underWay }) => underWay > 0);
  const calmBins = before.filter(({ underWay }) => underWay <= CALM_UP_TO * most);
  const crowdedBins = before.filter(({ underWay }) => underWay >= CROWDED_FROM * most);
  if (calmBins.length === 0 || crowdedBins.length === 0) return [];
  const calm = together(calmBins, seconds);
  const crowded = together(crowdedBins, seconds);
  if (calm.requests < MIN_REQUESTS || crowded.requests < MIN_REQUESTS) return [];
  const crowding = crowded.underWay / calm.underWay;
  const follows = Math.log(crowded.throughput / calm.throughput) / Math.log(crowding);
  if (crowding < MIN_CROWDING || follows > MAX_FOLLOWS) return [];
  const waitedNs = (crowded.timeSeconds - calm.timeSeconds) * crowded.requests * 1e9;
  const allNs = samples.column('durationUs').reduce((sum, us) => sum + us, 0) * 1000;
  const time = (stretch: Stretch): string => formatDuration(stretch.timeSeconds * 1e9);
  return [
    {
      title: 'Requests pile up',
      severity: severityOf(waitedNs, allNs),
      sentence: `With ${formatFigure(crowded.underWay)} requests under way instead of ${formatFigure(calm.underWay)}, ${formatFigure(crowded.throughput)} answers come per second instead of ${formatFigure(calm.throughput)}, and each takes ${time(crowded)} instead of ${time(calm)}: they wait for one another.`,
      remedy: 'Find what they queue for: record a CPU profile or thread dumps while it is crowded.',
      figures: {
        calmUnderWay: calm.underWay,
        crowdedUnderWay: crowded.underWay,
        calmThroughput: calm.throughput,
        crowdedThroughput: crowded.throughput,
        calmNs: calm.timeSeconds * 1e9,
        crowdedNs: crowded.timeSeconds * 1e9,
        follows
      },
      evidence: { step: null },
      cost: waitedNs
    }
  ];
}
