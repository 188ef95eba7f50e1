import { groupBy } from '../group-by';

/** Which requests are kept in full. A trace is kept whole as soon as one rule keeps one of its requests. */
export type KeepRule =
  | { when: 'slower'; ms: number }
  | { when: 'failed' }
  | { when: 'endpoint'; service: string; endpoint: string }
  | { when: 'host'; host: string }
  | { when: 'attribute'; name: string; value: string }
  | { when: 'one-in'; n: number }
  | { when: 'each-endpoint'; perHour: number };

/** What the rules look at. */
export interface KeepFacts {
  traceId: string;
  service: string;
  endpoint: string;
  host: string;
  /** Epoch microseconds. */
  startUs: number;
  durationNs: number;
  failed: boolean;
  has: (name: string, value: string) => boolean;
}

export interface KeepVerdict {
  /** Traces to keep. */
  traces: Set<string>;
  /** Requests in kept traces, of how many. */
  kept: number;
  of: number;
  /** How many requests each rule keeps by itself, in the order of the rules. */
  byRule: number[];
}

const US_PER_HOUR = 3_600_000_000;

/**
 * Judges requests by the rules; no rule at all keeps everything. "1 in n" goes by the trace id, so that every service's
 * part of a trace is judged alike; "each endpoint" takes the lowest trace ids of each hour, which is a fair sample of it.
 */
export function judge(rules: readonly KeepRule[], requests: readonly KeepFacts[]): KeepVerdict {
  const traces = new Set<string>();
  const byRule = rules.map((rule) => {
    const kept =
      rule.when === 'each-endpoint' ? someOfEach(requests, rule.perHour) : requests.filter(matches(rule));
    for (const { traceId } of kept) traces.add(traceId);
    return kept.length;
  });
  if (rules.length === 0) for (const { traceId } of requests) traces.add(traceId);
  const kept = requests.reduce((sum, { traceId }) => sum + (traces.has(traceId) ? 1 : 0), 0);
  return { traces, kept, of: requests.length, byRule };
}

function matches(rule: Exclude<KeepRule, { when: 'each-endpoint' }>): (request: KeepFacts) => boolean {
  switch (rule.when) {
    case 'slower':
      return ({ durationNs }) => durationNs > rule.ms * 1e6;
    case 'failed':
      return ({ failed }) => failed;
    case 'endpoint':
      return ({ service, endpoint }) =>
        endpoint === rule.endpoint && (rule.service === '' || service === rule.service);
    case 'host':
      return ({ host }) => host === rule.host;
    case 'attribute':
      return ({ has }) => has(rule.name, rule.value);
    case 'one-in':
      return ({ traceId }) => sampleNumber(traceId) % Math.max(1, rule.n) === 0;
  }
}

/** The last 52 bits of a trace id: the W3C asks for randomness there (Trace Context Level 2, random-trace-id flag). */
function sampleNumber(traceId: string): number {
  return Number.parseInt(traceId.slice(-13), 16) || 0;
}

function someOfEach(requests: readonly KeepFacts[], perHour: number): KeepFacts[] {
  const groups = groupBy(requests, ({ startUs, service, endpoint }) =>
    JSON.stringify([Math.floor(startUs / US_PER_HOUR), service, endpoint])
  );
  return [...groups.values()].flatMap((group) =>
    group.sort((a, b) => sampleNumber(a.traceId) - sampleNumber(b.traceId)).slice(0, perHour)
  );
}
