import type { Finding } from '@tromix/core/findings/finding';
import type { Ledger } from '@tromix/core/trace/account';
import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';
import type { RequestModel } from './request-model';

/**
 * What the request shows, in two or three sentences; parts between stars are bold.
 * @param ledger where it is known better than from the spans alone.
 */
export function requestReading(
  { request, groups }: RequestModel,
  findings: readonly Finding[],
  ledger: Ledger = request.ledger
): string[] {
  const whole = request.durationNs;
  const byBooked = ACCOUNTS.filter((account) => ledger[account] > 0).sort((a, b) => ledger[b] - ledger[a]);
  const sentences: string[] = [];
  const loop = findings.find(({ rule }) => Object.hasOwn(LOOPS, rule));
  if (loop) {
    // The same loop in several requests inside this one: their calls and their times belong together.
    const alike = findings.filter(({ rule, subject }) => rule === loop.rule && subject === loop.subject);
    const sum = (of: (finding: Finding) => number): number =>
      alike.reduce((total, one) => total + of(one), 0);
    const slowestNs = Math.max(...alike.map(({ figures }) => Number(figures.slowestNs)));
    sentences.push(
      `This request spent *${formatDuration(sum(({ costNs }) => costNs))} of its ${formatDuration(whole)}* ${LOOPS[loop.rule]!(shortOf(loop.subject))} *${formatCount(sum(({ figures }) => Number(figures.calls)))} times*. The longest of these calls took ${formatDuration(slowestNs)}.`
    );
  } else if (byBooked.length > 0) {
    const [first] = byBooked;
    sentences.push(
      `This request spent *${formatDuration(ledger[first])} of its ${formatDuration(whole)}* in *${LOOKS[first].name.toLowerCase()}*.`
    );
  }
  const [, second] = byBooked;
  const calls = groups.reduce((sum, { count }) => sum + count, 0);
  if (second)
    sentences.push(
      `Next comes *${LOOKS[second].name.toLowerCase()}* with ${formatShare(ledger[second] / whole)}. It made ${plural(calls, 'call')} in all.`
    );
  if (request.failed) sentences.push('It *failed*.');
  if (request.afterNs >= AFTER_MIN_NS)
    sentences.push(
      `*${formatDuration(request.afterNs)}* of work went on after the answer; it counts in no share.`
    );
  if (request.kind !== 'request')
    sentences.push(
      request.kind === 'work'
        ? 'It is a root span of no server or consumer kind: a request only where its service sends none.'
        : 'It is *background work*: a root span that serves nobody, in no rate, percentile or share.'
    );
  return sentences;
}

/** Less than this after the answer is the span's own end. */
const AFTER_MIN_NS = 1e6;

/** What a loop does, by its rule. */
const LOOPS: Partial<Record<Finding['rule'], (subject: string) => string>> = {
  'query-per-row': () => 'asking the database',
  'row-by-row-writes': () => 'writing to the database',
  'chatty-remote': (subject) => `calling *${subject}*`,
  'chatty-cache': () => 'asking the cache',
  'chatty-messaging': (subject) => `on *${subject}*`
};

const shortOf = (fingerprint: string): string =>
  fingerprint.length > 60 ? `${fingerprint.slice(0, 57)}…` : fingerprint;
