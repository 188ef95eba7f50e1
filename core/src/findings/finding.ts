import type { CallGroup } from '../calls/groups';
import type { Replay } from '../trace/replay';
import type { RequestAccount, TraceAccount } from '../trace/requests';
import { formatDuration, formatShare } from '../text/format';
import type { Loop } from './loop';

export type Severity = 'high' | 'medium' | 'low';

/** What a rule found in a profile or a dump, with what shows it. */
export interface Conclusion<Evidence> {
  /** Short name of what was found. */
  title: string;
  severity: Severity;
  sentence: string;
  /** What to do about it. */
  remedy: string;
  figures: Record<string, number | string | null>;
  evidence: Evidence;
  /** What this is about: bytes, threads or weight. */
  cost: number;
}

/** What a rule found in a request. Times in nanoseconds. */
export interface Found {
  /** Short name of what was found. */
  title: string;
  /** What to do about it. */
  remedy: string;
  figures: Record<string, number | string | null>;
  evidence: FindingEvidence;
  /** How much shorter the request should be, by replaying it with the remedy. */
  saving?: { lowNs: number; highNs: number };
  /** What the saving assumes. */
  assumption?: string;
  /** What the remedy makes of the request, as in the upper end of the saving: node → its new duration. Absent where there is none to replay. */
  edit?: ReadonlyMap<number, number>;
  /** The request's time this is about. */
  costNs: number;
  /** Equal for the same finding in other requests of the endpoint. */
  subject: string;
  /** Words the sentence; the cost in it is that of the request it is stated for. */
  say: (cost: CostInWords) => string;
}

/** A conclusion a rule reached about one request, stated for it or for a request around it. */
export interface Finding<Name extends string = string> extends Omit<Found, 'say'> {
  rule: Name;
  severity: Severity;
  sentence: string;
}

export interface FindingEvidence {
  traceId: string;
  /** Spans to look at, the first ones where there are very many. */
  spanIds: string[];
  fingerprint?: string;
  origin?: string;
  /** For a stretch: nanoseconds from the request's start. */
  fromNs?: number;
  toNs?: number;
  /** For what was found over many requests: where, and the host or release it is about. */
  service?: string;
  endpoint?: string;
  subject?: string;
}

/** What a rule may look at: one request, and only the work for which it is the innermost request. */
export interface RuleContext {
  trace: TraceAccount;
  request: RequestAccount;
  /** Nodes whose innermost request this is. */
  nodes: readonly number[];
  groups: CallGroup[];
  loops: Loop[];
  /** Runs the request again with edits. */
  replay: Replay;
  /** The critical path's time inside one of these nodes and everything below it, nanoseconds. */
  bookedWithin: (node: number) => number;
  /** A remark that one request needs only once: itself the first time it is made, '' after that. */
  once: (remark: string) => string;
}

/** Shares of the request from which a finding is severe: by cost, never by rule. */
export const HIGH_SHARE = 0.3;
export const MEDIUM_SHARE = 0.1;

export function severityOf(costNs: number, durationNs: number): Severity {
  const share = durationNs > 0 ? costNs / durationNs : 0;
  if (share >= HIGH_SHARE) return 'high';
  return share >= MEDIUM_SHARE ? 'medium' : 'low';
}

/** What something costs, in words: its time, and its share of the request that is looked at. */
export interface CostInWords {
  time: string;
  share: string;
}
const inWords = (costNs: number, durationNs: number): CostInWords => ({
  time: formatDuration(costNs),
  share: formatShare(durationNs > 0 ? costNs / durationNs : 0)
});

/** What was found, stated for the request it was found in. */
export const reported = <Name extends string>(
  found: Found & { rule: Name },
  durationNs: number
): Finding<Name> => {
  const { say, ...rest } = found;
  return {
    ...rest,
    severity: severityOf(found.costNs, durationNs),
    sentence: say(inWords(found.costNs, durationNs))
  };
};

/**
 * The same stated for a request around the one it was found in: what it costs and saves that one.
 * @param durationNs of the request around.
 */
export function reportedOutside<Name extends string>(
  found: Found & { rule: Name },
  { costNs, saving, durationNs }: Pick<Found, 'costNs' | 'saving'> & { durationNs: number }
): Finding<Name> {
  const figures = { ...found.figures };
  if ('bookedNs' in figures) figures.bookedNs = costNs;
  if ('share' in figures) figures.share = durationNs > 0 ? costNs / durationNs : 0;
  return reported({ ...found, figures, costNs, saving }, durationNs);
}

/** ` at <origin>`; '' where it was not recorded. */
export const atOrigin = (origin: string): string => (origin ? `, at ${origin}` : '');

/** Span ids kept as evidence; the rest are found by their fingerprint. */
const EVIDENCE_SPANS = 20;

export function spanIdsOf(trace: TraceAccount, nodes: readonly number[]): string[] {
  return nodes.slice(0, EVIDENCE_SPANS).map((node) => trace.tree.nodes[node].span.spanId);
}

/** The evidence of a finding about like calls: these spans, what they call and where it was made. */
export function callEvidence(
  trace: TraceAccount,
  { fingerprint, origin }: { fingerprint: string; origin: string },
  nodes: readonly number[]
): FindingEvidence {
  return {
    traceId: trace.tree.traceId,
    spanIds: spanIdsOf(trace, nodes),
    fingerprint,
    origin: origin || undefined
  };
}
