import type { CallGroup } from '../calls/groups';
import type { Replay } from '../trace/replay';
import type { RequestAccount, TraceAccount } from '../trace/requests';
import { formatDuration, formatShare } from '../text/format';
import type { Loop } from './loops';

export type Severity = 'high' | 'medium' | 'low';

export type Rule =
  | 'query-per-row'
  | 'row-by-row-writes'
  | 'same-call-again'
  | 'chatty-remote'
  | 'chatty-cache'
  | 'chatty-messaging'
  | 'waits-for-connection'
  | 'waits-for-lock'
  | 'one-slow-call'
  | 'blind-stretch'
  | 'could-run-together'
  | 'too-many-rows'
  | 'round-timeout'
  | 'retry-storm'
  | 'failed-but-waited'
  | 'one-host'
  | 'since-release'
  | 'cold-start';

/** A conclusion a rule reached about one request. Times in nanoseconds. */
export interface Finding {
  rule: Rule;
  /** Short name of what was found. */
  title: string;
  severity: Severity;
  sentence: string;
  /** What to do about it. */
  remedy: string;
  figures: Record<string, number | string | null>;
  evidence: FindingEvidence;
  /** How much shorter the request should be, by replaying it with the remedy. */
  saving?: { lowNs: number; highNs: number };
  /** What the saving assumes. */
  assumption?: string;
  /** The request's time this is about. */
  costNs: number;
  /** Equal for the same finding in other requests of the endpoint. */
  subject: string;
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

export type FindingRule = (context: RuleContext) => Finding[];

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
const wordings = new WeakMap<Finding, (cost: CostInWords) => string>();

const inWords = (costNs: number, durationNs: number): CostInWords => ({
  time: formatDuration(costNs),
  share: formatShare(durationNs > 0 ? costNs / durationNs : 0)
});

/**
 * Completes a finding by its sentence and its severity, which depend on the request it is told of.
 * @param durationNs of the request. @param say words the sentence; the cost in it is that of the request.
 */
export function worded(
  finding: Omit<Finding, 'sentence' | 'severity'>,
  durationNs: number,
  say: (cost: CostInWords) => string
): Finding {
  const { costNs } = finding;
  const done: Finding = {
    ...finding,
    severity: severityOf(costNs, durationNs),
    sentence: say(inWords(costNs, durationNs))
  };
  wordings.set(done, say);
  return done;
}

/**
 * The same finding told of a request around the one it was found in: what it costs and saves that one.
 * @param durationNs of the request around.
 */
export function retold(
  finding: Finding,
  { costNs, saving, durationNs }: Pick<Finding, 'costNs' | 'saving'> & { durationNs: number }
): Finding {
  const say = wordings.get(finding);
  const figures = { ...finding.figures };
  if ('bookedNs' in figures) figures.bookedNs = costNs;
  if ('share' in figures) figures.share = durationNs > 0 ? costNs / durationNs : 0;
  const told: Finding = {
    ...finding,
    figures,
    costNs,
    saving,
    severity: severityOf(costNs, durationNs),
    sentence: say ? say(inWords(costNs, durationNs)) : finding.sentence
  };
  if (say) wordings.set(told, say);
  return told;
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

/** Edits by finding: kept beside it, since a finding is stored as text and its edit can be worked out again. */
const edits = new WeakMap<Finding, ReadonlyMap<number, number>>();

/** Notes what the remedy makes of the request: node → its new duration in nanoseconds, as in the upper end of the saving. */
export function withEdit<F extends Finding>(finding: F, durations: ReadonlyMap<number, number>): F {
  edits.set(finding, durations);
  return finding;
}

/** The edit of a finding that was worked out in this thread; undefined where its rule has no remedy to replay. */
export const editOf = (finding: Finding): ReadonlyMap<number, number> | undefined => edits.get(finding);
