import type { Cohort, FirstRequest, ManyContext } from '../findings/over-many';
import { median } from '../stats/percentile';
import { addBucket, bucketOf, emptySketch } from '../stats/sketch';
import type { RequestAccount, TraceAccount } from '../trace/requests';

/** Requests as rules over many of them look at them. */
export function manyContext(found: readonly { trace: TraceAccount; request: RequestAccount }[]): ManyContext {
  const cohorts = new Map<string, Cohort>();
  const firsts = new Map<string, FirstRequest & { startUs: number }>();
  const releaseFirst = new Map<string, number>();
  let allNs = 0;
  for (const { trace, request } of found) {
    const { span } = trace.tree.nodes[request.node];
    const { service, host, release, key: process } = span.resource;
    const startUs = trace.tree.baseUs + trace.tree.start[request.node] / 1000;
    const { endpoint, durationNs } = request;
    allNs += request.exclusiveNs;
    const releaseKey = JSON.stringify([service, release]);
    releaseFirst.set(releaseKey, Math.min(releaseFirst.get(releaseKey) ?? Infinity, startUs));
    const key = JSON.stringify([service, endpoint, host, release]);
    let cohort = cohorts.get(key);
    if (!cohort) {
      cohort = {
        service,
        endpoint,
        host,
        release,
        releaseFirstUs: 0,
        count: 0,
        totalNs: 0,
        exclusiveNs: 0,
        sketch: emptySketch()
      };
      cohorts.set(key, cohort);
    }
    cohort.count++;
    cohort.totalNs += durationNs;
    cohort.exclusiveNs += request.exclusiveNs;
    addBucket(cohort.sketch, bucketOf(durationNs / 1000), 1);
    if (startUs < (firsts.get(process)?.startUs ?? Infinity))
      firsts.set(process, {
        service,
        endpoint,
        host,
        release,
        durationNs,
        exclusiveNs: request.exclusiveNs,
        traceId: span.traceId,
        spanId: span.spanId,
        startUs
      });
  }
  const list = [...cohorts.values()];
  for (const cohort of list)
    cohort.releaseFirstUs = releaseFirst.get(JSON.stringify([cohort.service, cohort.release]))!;
  const medianNs = (of: Pick<FirstRequest, 'service' | 'endpoint' | 'release'>): number =>
    median(
      found
        .filter(({ trace, request }) => {
          const { service, release } = trace.tree.nodes[request.node].span.resource;
          return request.endpoint === of.endpoint && service === of.service && release === of.release;
        })
        .map(({ request }) => request.durationNs)
    );
  return { cohorts: list, firsts: [...firsts.values()], medianNs, allNs };
}
