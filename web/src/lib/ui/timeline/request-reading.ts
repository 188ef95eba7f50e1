import type { Finding } from '@tromix/core/findings/finding';
import type { Ledger } from '@tromix/core/trace/account';
import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { ACCOUNTS, LOOKS } from '$lib/ui/kit/accounts';
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
  const loop = findings.find(
    ({ rule }) => rule === 'query-per-row' || rule === 'chatty-remote' || rule === 'row-by-row-writes'
  );
  const group = loop && groups.find(({ fingerprint }) => fingerprint === loop.subject);
  if (loop && group) {
    const what =
      loop.rule === 'chatty-remote'
        ? `calling *${shortOf(group.fingerprint)}*`
        : loop.rule === 'row-by-row-writes'
          ? 'writing to the database'
          : 'asking the database';
    sentences.push(
      `This request spent *${formatDuration(loop.costNs)} of its ${formatDuration(whole)}* ${what} *${formatCount(group.count)} times*. The longest of these calls took ${formatDuration(group.slowestNs)}.`
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
  return sentences;
}

const shortOf = (fingerprint: string): string =>
  fingerprint.length > 60 ? `${fingerprint.slice(0, 57)}…` : fingerprint;
