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
  type Cohort,
  type FoundOverMany,
  type ManyContext
} from './over-many';

/** A host must be so much slower than the others before it is called odd. */
export const ONE_HOST_MIN_RATIO = 1.5;

export const oneHost = defineRule({
  rule: 'one-host',
  name: 'One slow host',
  looksFor: 'A host that is slower at an endpoint than the others are under the same release.',
  thresholds: [
    {
      name: 'ratio of the medians',
      value: `${ONE_HOST_MIN_RATIO} or more`,
      why: 'Hosts are never exactly alike.'
    },
    SURE
  ],
  why: 'The code is the same, so the cause is the host or its surroundings.',
  doThis: ['Compare its hardware, neighbours, configuration and caches with the others.'],
  find
});

/** A host under one release of an endpoint, held against the other hosts under the same release. */
interface OddHost {
  cohort: Cohort;
  requests: number;
  costNs: number;
  others: number;
  change: ReturnType<typeof compare>;
}

/**
 * One host that is slower than the others at the same endpoint under the same release: at least 1.5 times their
 * median, by a rank test. A host that is so under several releases is reported once, by the release in which it costs most.
 */
function find({ cohorts, allNs }: ManyContext): FoundOverMany[] {
  return byEndpoint(cohorts).flatMap((endpoint) => {
    // A release that only some hosts run would look like an odd host: hosts are compared within each release.
    const odd = [...groupBy(endpoint, ({ release }) => release).values()].flatMap((release) =>
      oddHosts(release, allNs)
    );
    return [...groupBy(odd, ({ cohort }) => cohort.host).values()].map((of) => oddHostFinding(of, allNs));
  });
}

function oddHosts(release: readonly Cohort[], allNs: number): OddHost[] {
  const hosts = groupBy(release, ({ host }) => host);
  if (hosts.size < 2) return [];
  return [...hosts.values()].flatMap((host): OddHost[] => {
    const [cohort] = host;
    const others = release.filter((one) => one.host !== cohort.host);
    const costNs = excess(others, host);
    if (costNs <= 0 || costNs < SCOPE_MIN_SHARE * allNs) return [];
    const [here, there] = [together(host), together(others)];
    const change = compare(there.sketch, here.sketch);
    if (change.verdict !== 'slower' || change.ratio < ONE_HOST_MIN_RATIO) return [];
    return [{ cohort, requests: here.count, costNs, others: hosts.size - 1, change }];
  });
}

function oddHostFinding(of: readonly OddHost[], allNs: number): FoundOverMany {
  const { cohort, others, change } = of.reduce((most, one) => (one.costNs > most.costNs ? one : most));
  const { host, endpoint, service, release } = cohort;
  const requests = of.reduce((sum, one) => sum + one.requests, 0);
  const costNs = of.reduce((sum, one) => sum + one.costNs, 0);
  const [there, here] = change.medians;
  const beside = others === 1 ? 'the other host' : `the other ${formatCount(others)} hosts`;
  const under = of.length === 1 ? 'the same release' : `release ${release}`;
  const again = of.length === 1 ? '' : ` It is slower under ${formatCount(of.length)} releases.`;
  return {
    title: `Slow on ${host}`,
    severity: scopeSeverity(costNs / Math.max(1, allNs)),
    sentence: `On ${host}, ${endpoint} takes ${formatDuration(here)} at the median, ${change.ratio.toFixed(1)} times the ${formatDuration(there)} on ${beside} under ${under}. By a rank test this is not down to chance.${again}`,
    remedy:
      'Compare this host with the others: its hardware and neighbours, its configuration, what it talks to, its caches. Take it out of service if users are affected.',
    service,
    endpoint,
    subject: host,
    narrow: { host },
    requests,
    costNs,
    figures: {
      requests,
      medianNs: here,
      othersMedianNs: there,
      ratio: change.ratio,
      p: change.p,
      release,
      releases: of.length
    }
  };
}
