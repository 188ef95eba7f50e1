import { groupBy } from '../group-by';
import { changeBetween, type Change } from '../stats/rank-test';
import { emptySketch, mergeInto, sketchQuantiles, type Sketch } from '../stats/sketch';
import { formatCount, formatDuration, formatShare, plural } from '../text/format';
import type { Rule, Severity } from './finding';

/** The requests of one endpoint on one host under one release, summed up. */
export interface Cohort {
  service: string;
  endpoint: string;
  host: string;
  release: string;
  /** Epoch microseconds of the release's first request. */
  releaseFirstUs: number;
  count: number;
  totalNs: number;
  /** The part of it that counts among all time in the scope: each nanosecond once, at the innermost request. */
  exclusiveNs: number;
  /** Durations over microseconds. */
  sketch: Sketch;
}

/** The first request a process served. */
export interface FirstRequest {
  service: string;
  endpoint: string;
  host: string;
  release: string;
  durationNs: number;
  /** As of `Cohort`. */
  exclusiveNs: number;
  traceId: string;
  spanId: string;
}

/** A conclusion over many requests of one endpoint. */
export interface ScopeFinding {
  rule: Extract<Rule, 'one-host' | 'since-release' | 'cold-start'>;
  title: string;
  severity: Severity;
  sentence: string;
  remedy: string;
  service: string;
  endpoint: string;
  /** The host or release it is about. */
  subject: string;
  requests: number;
  costNs: number;
  figures: Record<string, number | string | null>;
  /** A request to open, where one stands for it. */
  example?: { traceId: string; spanId: string };
}

/** A host must be so much slower than the others before it is called odd. */
export const ONE_HOST_MIN_RATIO = 1.5;
/** A release so much slower than the one before. */
export const RELEASE_MIN_RATIO = 1.2;
/** A first request so much slower than the endpoint's median, and at least so long. */
export const COLD_MIN_RATIO = 3;
export const COLD_MIN_NS = 100e6;
/** Share of all time in the scope from which a finding over many requests is severe. */
export const SCOPE_HIGH_SHARE = 0.1;
export const SCOPE_MEDIUM_SHARE = 0.02;
/** Less of all time than this is not worth a sentence, and not the reckoning of a test. */
export const SCOPE_MIN_SHARE = 0.001;

export function scopeSeverity(share: number): Severity {
  if (share >= SCOPE_HIGH_SHARE) return 'high';
  return share >= SCOPE_MEDIUM_SHARE ? 'medium' : 'low';
}

/** Sums of several cohorts. */
export function together(cohorts: readonly Cohort[]): Pick<Cohort, 'count' | 'totalNs' | 'sketch'> {
  const sum = { count: 0, totalNs: 0, sketch: emptySketch() };
  for (const { count, totalNs, sketch } of cohorts) {
    sum.count += count;
    sum.totalNs += totalNs;
    mergeInto(sum.sketch, sketch);
  }
  return sum;
}

/**
 * How much longer the second cohorts took in all than they would have at the first ones' mean, nanoseconds; of that only the part that counts
 * among all time, so that it is no more than all of it.
 */
function excess(first: readonly Cohort[], second: readonly Cohort[]): number {
  const sum = (list: readonly Cohort[], of: 'count' | 'totalNs' | 'exclusiveNs'): number =>
    list.reduce((total, one) => total + one[of], 0);
  const totalNs = sum(second, 'totalNs');
  const longerNs =
    totalNs - (sum(first, 'totalNs') / Math.max(1, sum(first, 'count'))) * sum(second, 'count');
  return Math.round((longerNs * sum(second, 'exclusiveNs')) / Math.max(1, totalNs));
}

/** Medians in nanoseconds and the test between two groups. */
export function compare(before: Sketch, after: Sketch): Change & { medians: [number, number] } {
  const medians: [number, number] = [
    sketchQuantiles(before, [0.5])[0] * 1000,
    sketchQuantiles(after, [0.5])[0] * 1000
  ];
  return { ...changeBetween(before, after, medians), medians };
}

const byEndpoint = <T extends Pick<Cohort, 'service' | 'endpoint'>>(items: readonly T[]): T[][] => [
  ...groupBy(items, ({ service, endpoint }) => JSON.stringify([service, endpoint])).values()
];

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
 * median, by a rank test. A host that is so under several releases is told once, by the release in which it costs most.
 * @param allNs all time in the scope, for the severity.
 */
export function oneHost(cohorts: readonly Cohort[], allNs: number): ScopeFinding[] {
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

function oddHostFinding(of: readonly OddHost[], allNs: number): ScopeFinding {
  const { cohort, others, change } = of.reduce((most, one) => (one.costNs > most.costNs ? one : most));
  const { host, endpoint, service, release } = cohort;
  const requests = of.reduce((sum, one) => sum + one.requests, 0);
  const costNs = of.reduce((sum, one) => sum + one.costNs, 0);
  const [there, here] = change.medians;
  const beside = others === 1 ? 'the other host' : `the other ${formatCount(others)} hosts`;
  const under = of.length === 1 ? 'the same release' : `release ${release}`;
  const again = of.length === 1 ? '' : ` It is slower under ${formatCount(of.length)} releases.`;
  return {
    rule: 'one-host',
    title: `Slow on ${host}`,
    severity: scopeSeverity(costNs / Math.max(1, allNs)),
    sentence: `On ${host}, ${endpoint} takes ${formatDuration(here)} at the median, ${change.ratio.toFixed(1)} times the ${formatDuration(there)} on ${beside} under ${under}. By a rank test that is no chance.${again}`,
    remedy:
      'Compare this host with the others: its hardware and neighbours, its configuration, what it talks to, its caches. Take it out of service if people suffer.',
    service,
    endpoint,
    subject: host,
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

/** An endpoint that became slower with a release: its newest release here against the one before it. */
export function sinceRelease(cohorts: readonly Cohort[], allNs: number): ScopeFinding[] {
  return byEndpoint(cohorts).flatMap((endpoint) => {
    const releases = [...groupBy(endpoint, ({ release }) => release).values()].sort(
      (a, b) => a[0].releaseFirstUs - b[0].releaseFirstUs
    );
    const found: ScopeFinding[] = [];
    for (let i = 1; i < releases.length; i++) {
      const costNs = excess(releases[i - 1], releases[i]);
      if (costNs <= 0 || costNs < SCOPE_MIN_SHARE * allNs) continue;
      const [before, after] = [together(releases[i - 1]), together(releases[i])];
      const change = compare(before.sketch, after.sketch);
      if (change.verdict !== 'slower' || change.ratio < RELEASE_MIN_RATIO) continue;
      const [first] = releases[i];
      found.push({
        rule: 'since-release',
        title: `Slower since ${first.release}`,
        severity: scopeSeverity(costNs / Math.max(1, allNs)),
        sentence: `Since release ${first.release}, ${first.endpoint} takes ${formatDuration(change.medians[1])} at the median, ${change.ratio.toFixed(1)} times the ${formatDuration(change.medians[0])} under ${releases[i - 1][0].release}. By a rank test over ${formatCount(before.count)} and ${formatCount(after.count)} requests that is no chance.`,
        remedy:
          'Open a typical request of each release side by side; what is extra or slower in the newer one is what changed.',
        service: first.service,
        endpoint: first.endpoint,
        subject: first.release,
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

/**
 * First requests of processes that took several times as long as the median of the endpoint under their release: a release may be slower
 * altogether.
 */
export function coldStart(
  firsts: readonly FirstRequest[],
  medianNs: (first: Pick<FirstRequest, 'service' | 'endpoint' | 'release'>) => number,
  allNs: number
): ScopeFinding[] {
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
        rule: 'cold-start' as const,
        title: 'Slow right after a start',
        severity: scopeSeverity(costNs / Math.max(1, allNs)),
        sentence: `The first request recorded of a process took ${formatDuration(worst.durationNs)}${slow.length > 1 ? ' at the most' : ''}, ${(worst.durationNs / typical).toFixed(0)} times the median of ${endpoint} under its release (${formatDuration(typical)}); ${plural(slow.length, 'process', 'processes')} of ${service} did so. Most likely they had just begun.`,
        remedy:
          'Warm up before the process takes requests: open its connections, load its caches, run the path once. Leave these requests out of a chart they spoil.',
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

/** Fewer different row counts than this make no line. */
export const GROWTH_MIN_POINTS = 8;
/** The line must explain this much of the calls. */
export const GROWTH_MIN_R2 = 0.8;

/** States how a loop grows with the data, from the line through calls over rows; '' where the requests do not show it. */
export function growthSentence(
  fit: { slope: number; r2: number; points: number; intercept: number } | null,
  distinctRows: number,
  share: (value: number) => string = formatShare
): string {
  if (!fit || distinctRows < 3 || fit.points < GROWTH_MIN_POINTS) return '';
  if (fit.r2 < GROWTH_MIN_R2)
    return `Over ${formatCount(fit.points)} requests the calls do not follow the rows of the query before (a line explains ${share(fit.r2)}).`;
  const one = Math.abs(fit.slope - 1) < 0.1;
  const each = one ? 'one more call for each row' : `${fit.slope.toFixed(2)} more calls for each row`;
  return `Over ${formatCount(fit.points)} requests: ${each} of the query before (a line explains ${share(fit.r2)}).${one ? ' With ten times the rows it will be about ten times the calls.' : ''}`;
}
