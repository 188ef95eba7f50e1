import { groupBy } from '../group-by';
import { formatCount, formatDuration } from '../text/format';
import { defineRule } from './define-rule';
import {
  byEndpoint,
  compare,
  excess,
  SCOPE_MIN_SHARE,
  scopeSeverity,
  SURE,
  together,
  type FoundOverMany,
  type ManyContext
} from './over-many';

/** A release must be so much slower than the one before. */
export const RELEASE_MIN_RATIO = 1.2;

export const sinceRelease = defineRule({
  rule: 'since-release',
  name: 'Slower since a release',
  looksFor: 'An endpoint whose requests take longer under a release than under the one before it.',
  thresholds: [
    {
      name: 'ratio of the medians',
      value: `${RELEASE_MIN_RATIO} or more`,
      why: 'Smaller ones are hardly noticed.'
    },
    SURE
  ],
  why: 'What changed is in that release, or came with it.',
  doThis: ['Open a typical request of each side by side; what is extra or slower is what changed.'],
  find
});

/** An endpoint that became slower with a release: its newest release here against the one before it. */
function find({ cohorts, allNs }: ManyContext): FoundOverMany[] {
  return byEndpoint(cohorts).flatMap((endpoint) => {
    const releases = [...groupBy(endpoint, ({ release }) => release).values()].sort(
      (a, b) => a[0].releaseFirstUs - b[0].releaseFirstUs
    );
    const found: FoundOverMany[] = [];
    for (let i = 1; i < releases.length; i++) {
      const costNs = excess(releases[i - 1], releases[i]);
      if (costNs <= 0 || costNs < SCOPE_MIN_SHARE * allNs) continue;
      const [before, after] = [together(releases[i - 1]), together(releases[i])];
      const change = compare(before.sketch, after.sketch);
      if (change.verdict !== 'slower' || change.ratio < RELEASE_MIN_RATIO) continue;
      const [first] = releases[i];
      found.push({
        title: `Slower since ${first.release}`,
        severity: scopeSeverity(costNs / Math.max(1, allNs)),
        sentence: `Since release ${first.release}, ${first.endpoint} takes ${formatDuration(change.medians[1])} at the median, ${change.ratio.toFixed(1)} times the ${formatDuration(change.medians[0])} under ${releases[i - 1][0].release}. By a rank test over ${formatCount(before.count)} and ${formatCount(after.count)} requests this is not down to chance.`,
        remedy:
          'Open a typical request of each release side by side; what is extra or slower in the newer one is what changed.',
        service: first.service,
        endpoint: first.endpoint,
        subject: first.release,
        narrow: { release: first.release },
        requests: after.count,
        costNs,
        figures: {
          requests: after.count,
          medianNs: change.medians[1],
          beforeMedianNs: change.medians[0],
          ratio: change.ratio,
          p: change.p,
          before: releases[i - 1][0].release
        }
      });
    }
    return found;
  });
}
