import { groupBy } from '../group-by';
import { formatCount, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { endpointKey, failsMore } from './failing-shares';
import { FAILURE_OFTEN, FAILURE_SURE, type FailureContext, type FoundInFailures } from './failure-finding';

export const failsSinceRelease = defineRule({
  rule: 'fails-since-release',
  name: 'Fails since a release',
  looksFor:
    'An endpoint that fails in this way clearly more often under a release than under the one before it.',
  thresholds: [FAILURE_OFTEN, FAILURE_SURE],
  why: 'What changed is in that release, or came with it.',
  doThis: [
    'Look at what changed between the two releases at the line that throws and at its callers.',
    'Take the release back where it does harm; mark the failure as fixed in the next one, and it is told when it is back.'
  ],
  find
});

function find({ name, cohorts }: FailureContext): FoundInFailures[] {
  return [...groupBy(cohorts, endpointKey).values()].flatMap((endpoint) => {
    const releases = [...groupBy(endpoint, ({ release }) => release).values()].sort(
      (a, b) => a[0].releaseFirstUs - b[0].releaseFirstUs
    );
    return releases.slice(1).flatMap((after, i): FoundInFailures[] => {
      const found = failsMore(after, releases[i]);
      if (!found) return [];
      const { these, others, p } = found;
      const [{ release, endpoint: at }] = after;
      const [{ release: before }] = releases[i];
      return [
        {
          title: `Fails since ${release}`,
          severity: these.share >= 0.1 ? 'high' : 'medium',
          sentence: `Since release ${release}, ${formatShare(these.share)} of ${formatCount(these.requests)} requests of ${at} fail of ${name}; under ${before} it was ${others.failed === 0 ? 'none' : formatShare(others.share)} of ${formatCount(others.requests)}. By Fisher’s exact test this is not down to chance.`,
          remedy: `Look at what changed from ${before} to ${release} where it is thrown.`,
          figures: { release, before, share: these.share, shareBefore: others.share, p }
        }
      ];
    });
  });
}
