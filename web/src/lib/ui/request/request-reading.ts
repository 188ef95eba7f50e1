import { ruleText } from '@tromix/core/findings/all-rules';
import type { Finding } from '@tromix/core/findings/finding';
import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';
import type { RequestModel } from './request-model';

/** Less than this after the response is the span's own end. */
const AFTER_MIN_NS = 1e6;

/**
 * What the request shows, in two or three sentences.
 * @param explainedNs what of its unseen time a profile explains.
 */
export function requestReading(
  { request, groups }: RequestModel,
  findings: readonly Finding[],
  explainedNs = 0,
  /** Why it failed is told beside this. */
  isReasonTold = false
): Words[] {
  const { ledger } = request;
  const [first, second] = ACCOUNTS.filter((account) => ledger[account] > 0).sort(
    (a, b) => ledger[b] - ledger[a]
  );
  const calls = groups.reduce((sum, { count }) => sum + count, 0);
  const loop = loopWords(findings, request.durationNs);
  const sentences: Words[] = [];
  if (loop) sentences.push(loop);
  else if (first)
    sentences.push(
      words`This request spent ${[`${formatDuration(ledger[first])} of its ${formatDuration(request.durationNs)}`]} in ${[LOOKS[first].name.toLowerCase()]}.`
    );
  if (second)
    sentences.push(
      words`Next comes ${[LOOKS[second].name.toLowerCase()]} with ${formatShare(ledger[second] / request.durationNs)}. It made ${plural(calls, 'call')}.`
    );
  if (explainedNs > 0) sentences.push(words`${[explainedWords(explainedNs)]}: the process computed.`);
  if (request.failed && !isReasonTold) sentences.push(words`It ${['failed']}.`);
  if (request.afterNs >= AFTER_MIN_NS)
    sentences.push(
      words`${[formatDuration(request.afterNs)]} of work went on after the response; no share includes it.`
    );
  if (request.kind === 'work')
    sentences.push([
      'Its root span is neither a server nor a consumer span; it counts as a request because its service sends no others.'
    ]);
  else if (request.kind !== 'request')
    sentences.push(
      words`It is ${['background work']}: its root span serves no caller, and no rate, percentile or share includes it.`
    );
  return sentences;
}

/** What a profile tells of the time that no span covers: the same words wherever it is told. */
export const explainedWords = (ns: number): string =>
  `${formatDuration(ns)} of unseen explained by a profile`;

/** What a loop of calls cost, with how often and how long; the same loop in requests inside this one belongs to it. */
function loopWords(findings: readonly Finding[], wholeNs: number): Words | null {
  const loop = findings.find(({ rule }) => ruleText(rule)?.spent);
  if (!loop) return null;
  const alike = findings.filter(({ rule, subject }) => rule === loop.rule && subject === loop.subject);
  const sum = (of: (finding: Finding) => number): number => alike.reduce((all, one) => all + of(one), 0);
  const costNs = sum((one) => one.costNs);
  const calls = sum(({ figures }) => Number(figures.calls));
  const slowestNs = Math.max(...alike.map(({ figures }) => Number(figures.slowestNs)));
  return [
    ...words`This request spent ${[`${formatDuration(costNs)} of its ${formatDuration(wholeNs)}`]} `,
    ...ruleText(loop.rule)!.spent!(shortOf(loop.subject)),
    ...words` ${[`${formatCount(calls)} times`]}. The longest of these calls took ${formatDuration(slowestNs)}.`
  ];
}

const shortOf = (fingerprint: string): string =>
  fingerprint.length > 60 ? `${fingerprint.slice(0, 57)}…` : fingerprint;
