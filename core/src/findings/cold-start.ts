import { groupBy } from '../group-by';
import { formatDuration, plural } from '../text/format';
import { defineRule } from './define-rule';
import {
  byEndpoint,
  scopeSeverity,
  type FirstRequest,
  type FoundOverMany,
  type ManyContext
} from './over-many';

/** A first request so much slower than the endpoint's median, and at least so long. */
export const COLD_MIN_RATIO = 3;
export const COLD_MIN_NS = 100e6;

export const coldStart = defineRule({
  rule: 'cold-start',
  name: 'Cold start',
  looksFor: 'The first request a process served, when it took several times the endpoint’s median.',
  thresholds: [
    {
      name: 'length',
      value: `${COLD_MIN_RATIO} times the median and at least ${formatDuration(COLD_MIN_NS)}`,
      why: 'Every first request is a little slower.'
    }
  ],
  why: 'Connections are opened, caches filled and code compiled on a user’s time.',
  doThis: ['Warm up before the process takes requests.'],
  find
});

/**
 * First requests of processes that took several times as long as the median of the endpoint under their release: a release may be slower
 * altogether.
 */
function find({ firsts, medianNs, allNs }: ManyContext): FoundOverMany[] {
  return byEndpoint(firsts).flatMap((group) => {
    const [{ service, endpoint }] = group;
    const medians = new Map(
      [...groupBy(group, ({ release }) => release)].map(([release, [one]]) => [release, medianNs(one)])
    );
    const typicalOf = ({ release }: FirstRequest): number => medians.get(release)!;
    const slow = group.filter(
      (first) => first.durationNs >= COLD_MIN_NS && first.durationNs >= COLD_MIN_RATIO * typicalOf(first)
    );
    if (slow.length === 0) return [];
    const costNs = Math.round(
      slow.reduce((sum, first) => sum + Math.min(first.exclusiveNs, first.durationNs - typicalOf(first)), 0)
    );
    const typical = typicalOf(slow.reduce((most, one) => (one.durationNs > most.durationNs ? one : most)));
    const worst = slow.reduce((most, one) => (one.durationNs > most.durationNs ? one : most));
    return [
      {
        title: 'Cold start',
        severity: scopeSeverity(costNs / Math.max(1, allNs)),
        sentence: `The first request recorded of a process took ${formatDuration(worst.durationNs)}${slow.length > 1 ? ' at the most' : ''}, ${(worst.durationNs / typical).toFixed(0)} times the median of ${endpoint} under its release (${formatDuration(typical)}); ${plural(slow.length, 'process', 'processes')} of ${service} did so. They had most likely just started.`,
        remedy:
          'Warm up before the process takes requests: open its connections, load its caches, run the path once. Leave these requests out of charts they would distort.',
        service,
        endpoint,
        subject: endpoint,
        requests: slow.length,
        costNs,
        figures: { processes: slow.length, slowestNs: worst.durationNs, medianNs: typical },
        example: { traceId: worst.traceId, spanId: worst.spanId }
      }
    ];
  });
}
