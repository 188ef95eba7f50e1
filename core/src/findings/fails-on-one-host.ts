import { groupBy } from '../group-by';
import { formatCount, formatShare } from '../text/format';
import { defineRule } from './define-rule';
import { endpointKey, failsMore } from './failing-shares';
import { FAILURE_OFTEN, FAILURE_SURE, type FailureContext, type FoundInFailures } from './failure-finding';

export const failsOnOneHost = defineRule({
  rule: 'fails-on-one-host',
  name: 'Fails on one host',
  looksFor:
    'A host on which an endpoint fails in this way clearly more often than on the others under the same release.',
  thresholds: [FAILURE_OFTEN, FAILURE_SURE],
  why: 'The code is the same, so the cause is the host or what it talks to.',
  doThis: [
    'Compare its configuration, disk, memory, clock and neighbours with the others.',
    'Take it out of service while people are affected.'
  ],
  find
});

function find({ name, cohorts }: FailureContext): FoundInFailures[] {
  return [...groupBy(cohorts, (one) => `${endpointKey(one)} ${one.release}`).values()].flatMap((release) => {
    const hosts = groupBy(release, ({ host }) => host);
    if (hosts.size < 2) return [];
    return [...hosts.values()].flatMap((host): FoundInFailures[] => {
      const [{ host: on, endpoint }] = host;
      const found = failsMore(
        host,
        release.filter((one) => one.host !== on)
      );
      if (!found) return [];
      const { these, others, p } = found;
      return [
        {
          title: `Fails on ${on}`,
          severity: these.share >= 0.1 ? 'high' : 'medium',
          sentence: `On ${on}, ${formatShare(these.share)} of ${formatCount(these.requests)} requests of ${endpoint} fail of ${name}, on ${hosts.size === 2 ? 'the other host' : `the other ${formatCount(hosts.size - 1)} hosts`} ${others.failed === 0 ? 'none' : formatShare(others.share)} of ${formatCount(others.requests)} under the same release. By Fisher’s exact test this is not down to chance.`,
          remedy: 'Compare this host with the others before you look at the code.',
          figures: { host: on, share: these.share, shareElsewhere: others.share, p }
        }
      ];
    });
  });
}
