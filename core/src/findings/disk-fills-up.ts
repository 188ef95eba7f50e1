import { linearFit } from '../stats/linear-fit';
import { formatBytes, formatShare, plural } from '../text/format';
import { defineRule } from './define-rule';
import type { FoundOnHost, HostContext, HostFileSystem } from './host-finding';

const DAY_MS = 86_400_000;
const HOUR_MS = 3_600_000;
/** A line through less than this says little, milliseconds. */
const LEAST_SPAN_MS = 6 * HOUR_MS;
/** Further ahead nothing is said, days. */
const MOST_DAYS = 14;
/** Share of the variance that a line explains at the least: what rises and falls does not fill up. */
const LEAST_R2 = 0.8;

/** A file system that will be full, if it goes on like this. */
export const diskFillsUp = defineRule({
  rule: 'disk-fills-up',
  name: 'Disk fills up',
  looksFor: 'A file system whose used space grows so steadily that the day it is full can be told.',
  thresholds: [
    {
      name: 'steady',
      value: `a line through the last days, at least ${LEAST_SPAN_MS / HOUR_MS} hours, explains ${LEAST_R2 * 100} % of the variance`,
      why: 'Logs that are rotated and files that come and go rise and fall.'
    },
    {
      name: 'full within',
      value: `${MOST_DAYS} days`,
      why: 'A line does not reach further than the time it was drawn through by much.'
    }
  ],
  why: 'A full disk stops what writes: databases first.',
  doThis: ['Find what grows, and let it be rotated or removed.', 'Then give it more room.'],
  find
});

function find(context: HostContext): FoundOnHost[] {
  return context.fileSystems.flatMap((system) => {
    const daysLeft = daysUntilFull(system);
    if (daysLeft === null || daysLeft > MOST_DAYS) return [];
    const { atMs } = system.trend;
    const { mount, usedBytes, limitBytes } = system;
    const left =
      daysLeft < 1
        ? plural(Math.max(1, Math.round(daysLeft * 24)), 'hour')
        : plural(Math.round(daysLeft), 'day');
    return [
      {
        title: `${mount} fills up`,
        severity: daysLeft < 2 ? 'high' : 'medium',
        sentence: `${mount} of ${context.host} is ${formatShare(usedBytes / limitBytes)} full (${formatBytes(usedBytes)} of ${formatBytes(limitBytes)}); if it goes on as it has for ${plural(Math.max(1, Math.round((atMs.at(-1)! - atMs[0]) / DAY_MS)), 'day')}, it is full in about ${left}.`,
        remedy: 'Find what grows there.',
        figures: { used: usedBytes, limit: limitBytes, daysLeft },
        fromMs: atMs[0],
        toMs: atMs.at(-1)!
      }
    ];
  });
}

/** By the straight line through what was used; null where it does not grow steadily, or too little is known. */
export function daysUntilFull({ trend, usedBytes, limitBytes }: HostFileSystem): number | null {
  const { atMs, usedBytes: used } = trend;
  if (atMs.length < 6 || atMs.at(-1)! - atMs[0] < LEAST_SPAN_MS) return null;
  const line = linearFit(
    atMs.map((at) => (at - atMs[0]) / DAY_MS),
    used
  );
  if (!line || line.r2 < LEAST_R2 || line.slope <= 0) return null;
  return Math.max(0, (limitBytes - usedBytes) / line.slope);
}
