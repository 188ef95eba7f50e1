import { defineRule } from './define-rule';
import { shortClassName } from '../heap/holders';
import { formatBytes, formatCount, formatShare } from '../text/format';
import { severityOf } from './finding';
import type { HeapContext, FoundInHeap } from './heap-finding';

/** Heaps breathe: less growth than this says nothing of a leak. Common practice. */
export const GROWTH_MIN_SHARE = 0.1;

/** What the later of two dumps holds more of, and where it grew. */
export const growsBetweenDumps = defineRule({
  rule: 'grows-between-dumps',
  name: 'The heap grows',
  looksFor:
    'Classes of which a later dump of a process has more than an earlier one, and where in the dominator tree they grew.',
  thresholds: [
    {
      name: 'growth',
      value: `${formatShare(GROWTH_MIN_SHARE)} of the earlier heap or more`,
      why: 'Heaps always fluctuate a little. Common practice.'
    }
  ],
  why: 'Growth without more work ends when memory runs out.',
  doThis: [
    'Follow the path from a root to one of the added objects: its last step in your own code is where they should be released.'
  ],
  find
});

function find({ difference }: HeapContext): FoundInHeap[] {
  if (!difference) return [];
  const { liveBytes, classes, growthPath } = difference;
  const growth = liveBytes.after - liveBytes.before;
  if (growth < GROWTH_MIN_SHARE * liveBytes.before || classes.length === 0) return [];
  const own = classes.find((one) => one.own && one.after.count > one.before.count) ?? classes[0];
  const last = growthPath.at(-1);
  const bytes = classes[0].after.shallowBytes - classes[0].before.shallowBytes;
  return [
    {
      title: 'The heap grows',
      severity: severityOf(growth, liveBytes.after),
      sentence:
        `The heap grew by ${formatBytes(growth)} (${formatShare(growth / Math.max(1, liveBytes.before))}), most by ${shortClassName(classes[0].name)} (+${formatBytes(bytes)}); of ${shortClassName(own.name)} there are ${formatCount(own.after.count)} where there were ${formatCount(own.before.count)}.` +
        (last
          ? ` It grew below ${growthPath
              .slice(-3)
              .map(({ className }) => shortClassName(className))
              .join(
                ' → '
              )}, from ${formatBytes(last.before.retainedBytes)} to ${formatBytes(last.after.retainedBytes)}.`
          : ''),
      remedy:
        'Show what was added, and follow the path from a root to one of them: its last step in your own code is where they should be released.',
      figures: {
        growthBytes: growth,
        ...liveBytes,
        added: own.after.count - own.before.count
      },
      evidence: {
        shows: 'new objects',
        className: own.name,
        object: last ? last.sample : null,
        path: growthPath.map(({ className }) => className)
      },
      cost: growth
    }
  ];
}
