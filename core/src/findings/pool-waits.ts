import { greatestOf } from '../counters/lines';
import { longestOf, stretchesWhere } from '../counters/stretches';
import { formatCount, formatDuration } from '../text/format';
import { defineRule } from './define-rule';
import { timesOf, type FoundOnHost, type HostContext } from './host-finding';

/** All of a pool is in use, and more is asked for. */
export const poolWaits = defineRule({
  rule: 'pool-waits',
  name: 'A pool is used up',
  looksFor: 'A pool of connections or threads for which somebody waits.',
  thresholds: [
    {
      name: 'waiting',
      value: 'one or more in three bins in a row or more',
      why: 'Whoever waits once has met others by chance; who waits all the time meets a pool that is too small for its use.'
    }
  ],
  why: 'Time passes before the work begins, and no call of the request shows it.',
  doThis: [
    'Hold what is taken from the pool for less long: no other call in between.',
    'Look for what is not given back.',
    'Only then make the pool larger, if what stands behind it can take more.'
  ],
  find
});

function find(context: HostContext): FoundOnHost[] {
  return context.pools.flatMap((pool): FoundOnHost[] => {
    const stretch = longestOf(stretchesWhere(pool.waiting.length, (bin) => (pool.waiting[bin] ?? 0) >= 1));
    if (!stretch) return [];
    const waiting = greatestOf(pool.waiting, ...stretch) ?? 0;
    const used = greatestOf(pool.used, ...stretch) ?? 0;
    const times = timesOf(context, stretch);
    const ofSize =
      pool.size === null
        ? `${formatCount(used)} in use`
        : `${formatCount(used)} of ${formatCount(pool.size)} in use`;
    const each = pool.waitedS === null ? '' : `, ${formatDuration(pool.waitedS * 1e9)} each`;
    return [
      {
        title: 'A pool is used up',
        severity: waiting >= 5 ? 'high' : 'medium',
        sentence: `${pool.name}${pool.service && pool.service !== pool.name ? ` of ${pool.service}` : ''} on ${context.host}: ${ofSize}, up to ${formatCount(Math.round(waiting))} wait${each}, for ${formatDuration((times.toMs - times.fromMs) * 1e6)}.`,
        remedy: 'See what holds what was taken, and how long, before you make the pool larger.',
        figures: { waiting, used, size: pool.size, waitedSeconds: pool.waitedS },
        ...times,
        ...(pool.service && { service: pool.service })
      }
    ];
  });
}
