import { callGroups } from '../calls/groups';
import { findOverMany } from '../findings/over-many-findings';
import { manyContext } from './over-many';
import { findBelow, findInRequest } from '../findings/request-findings';
import type { Finding } from '../findings/finding';
import type { Warning } from '../formats/evidence-error';
import type { TraceBatch } from '../formats/otlp/traces';
import { apdexScore, apdexZone, DEFAULT_APDEX_T_MS, type ApdexCounts } from '../stats/apdex';
import { quantileSorted } from '../stats/percentile';
import type { Ledger } from '../trace/account';
import { groupBy } from '../group-by';
import type { RequestAccount, TraceAccount } from '../trace/requests';
import { accountBatches, type FoundRequest } from './accounted-batches';

/** A finding as every output writes it. */
export type InspectedFinding = Pick<
  Finding,
  'rule' | 'severity' | 'sentence' | 'figures' | 'evidence' | 'saving'
>;

export interface InspectedRequest {
  traceId: string;
  spanId: string;
  service: string;
  host: string;
  release: string;
  endpoint: string;
  startedAtUs: number;
  durationNs: number;
  failed: boolean;
  ledger: Ledger;
  calls: {
    kind: string;
    fingerprint: string;
    count: number;
    distinct: number | null;
    totalNs: number;
    bookedNs: number;
    origin: string;
  }[];
  clockShiftNs: number;
  findings: InspectedFinding[];
}

export interface InspectedEndpoint {
  service: string;
  endpoint: string;
  count: number;
  failed: number;
  totalNs: number;
  p50Ns: number;
  p95Ns: number;
  p98Ns: number;
  p99Ns: number;
  apdex: ApdexCounts & { tMs: number; score: number };
}

export interface InspectedTraces {
  spans: number;
  traces: number;
  rejected: { reason: string; count: number }[];
  requests: InspectedRequest[];
  endpoints: InspectedEndpoint[];
  /** Root spans that serve nobody, alike ones together, the most time first: in no figure of the others. */
  background: { service: string; name: string; count: number; totalNs: number }[];
  findings: InspectedFinding[];
  warnings: Warning[];
}

/**
 * Everything `tromix inspect` says about trace batches, taken as one system.
 * @param top most requests and findings listed, the longest first; 0 for all.
 */
export function inspectTraces(batches: readonly TraceBatch[], top: number): InspectedTraces {
  const { requests: found, background, spans, traces, rejected, warnings } = accountBatches(batches);
  found.sort((a, b) => b.request.durationNs - a.request.durationNs);
  const limit = top === 0 ? Infinity : top;
  return {
    spans,
    traces,
    rejected,
    requests: found.slice(0, limit).map(({ trace, request }) => describeRequest(trace, request)),
    endpoints: describeEndpoints(found),
    background: backgroundWork(background),
    findings: allFindings(found).slice(0, limit),
    warnings
  };
}

function backgroundWork(works: readonly FoundRequest[]): InspectedTraces['background'] {
  const key = ({ trace, request }: FoundRequest): string =>
    JSON.stringify([trace.tree.nodes[request.node].span.resource.service, request.endpoint]);
  return [...groupBy(works, key)]
    .map(([name, list]) => {
      const [service, endpoint] = JSON.parse(name) as [string, string];
      const totalNs = list.reduce((sum, { request }) => sum + request.durationNs, 0);
      return { service, name: endpoint, count: list.length, totalNs };
    })
    .sort((a, b) => b.totalNs - a.totalNs);
}

/** Findings of single requests and those over many of them, costliest first. */
function allFindings(found: readonly FoundRequest[]): InspectedFinding[] {
  const inRequests = found
    .flatMap(({ trace, request }) => findInRequest(trace, request))
    .map((finding) => ({ costNs: finding.costNs, finding: inspectedFinding(finding) }));
  const overMany = findOverMany(manyContext(found)).map(
    ({ rule, severity, sentence, figures, service, endpoint, subject, example, costNs }) => ({
      costNs,
      finding: {
        rule,
        severity,
        sentence,
        figures,
        evidence: {
          traceId: example?.traceId ?? '',
          spanIds: example ? [example.spanId] : [],
          service,
          endpoint,
          subject
        }
      }
    })
  );
  return [...inRequests, ...overMany].sort((a, b) => b.costNs - a.costNs).map(({ finding }) => finding);
}

function describeRequest(trace: TraceAccount, request: RequestAccount): InspectedRequest {
  const { span } = trace.tree.nodes[request.node];
  return {
    traceId: span.traceId,
    spanId: span.spanId,
    service: span.resource.service,
    host: span.resource.host,
    release: span.resource.release,
    endpoint: request.endpoint,
    startedAtUs: trace.tree.baseUs + Math.floor(trace.tree.start[request.node] / 1000),
    durationNs: request.durationNs,
    failed: request.failed,
    ledger: request.ledger,
    calls: callGroups(trace.tree, request).map(
      ({ kind, fingerprint, count, distinct, totalNs, bookedNs, origin }) => ({
        kind,
        fingerprint,
        count,
        distinct,
        totalNs,
        bookedNs,
        origin
      })
    ),
    clockShiftNs: trace.tree.shift[request.node],
    findings: findBelow(trace, request).map(inspectedFinding)
  };
}

function inspectedFinding({
  rule,
  severity,
  sentence,
  figures,
  evidence,
  saving
}: Finding): InspectedFinding {
  return { rule, severity, sentence, figures, evidence, ...(saving ? { saving } : {}) };
}

function describeEndpoints(found: readonly FoundRequest[]): InspectedEndpoint[] {
  const byKey = new Map<string, { service: string; endpoint: string; requests: RequestAccount[] }>();
  for (const { trace, request } of found) {
    const { service } = trace.tree.nodes[request.node].span.resource;
    const key = JSON.stringify([service, request.endpoint]);
    const known = byKey.get(key);
    if (known) known.requests.push(request);
    else byKey.set(key, { service, endpoint: request.endpoint, requests: [request] });
  }
  const endpoints = [...byKey.values()].map(({ service, endpoint, requests }) => {
    const durations = Float64Array.from(requests, ({ durationNs }) => durationNs).sort();
    const zones: ApdexCounts = { satisfied: 0, tolerating: 0, frustrated: 0 };
    for (const { durationNs, failed } of requests)
      zones[apdexZone(durationNs, DEFAULT_APDEX_T_MS * 1e6, failed)]++;
    return {
      service,
      endpoint,
      count: requests.length,
      failed: requests.filter(({ failed }) => failed).length,
      totalNs: durations.reduce((sum, took) => sum + took, 0),
      p50Ns: quantileSorted(durations, 0.5),
      p95Ns: quantileSorted(durations, 0.95),
      p98Ns: quantileSorted(durations, 0.98),
      p99Ns: quantileSorted(durations, 0.99),
      apdex: { tMs: DEFAULT_APDEX_T_MS, score: apdexScore(zones), ...zones }
    };
  });
  return endpoints.sort((a, b) => b.totalNs - a.totalNs);
}
