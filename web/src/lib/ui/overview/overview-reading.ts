import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import type { Account } from '@tromix/core/trace/account';
import type { Overview } from '$lib/server/queries/overview';
import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';
import { shortTime } from '$lib/ui/kit/time';

/** Changes smaller than this are not spoken of. */
const NOTABLE = 1.15;

/** What the overview shows, in two or three sentences. Parts between stars are shown bold. */
export function overviewReading(overview: Overview): string[] {
  const { rows, turn, before, after, all, change } = overview;
  if (all.count === 0) return ['Nothing was recorded in this window.'];
  const sentences: string[] = [];
  const ratio = after.meanNs / before.meanNs;
  const since =
    turn.kind === 'release'
      ? `Since *release ${turn.release}* of *${turn.service}* (${shortTime(turn.at, overview.window.toUs / 1000)})`
      : 'Against the time before this window';
  if (before.count > 0 && after.count > 0 && Number.isFinite(ratio)) {
    // The mean and the test may disagree: a few requests move a mean, most requests decide the test.
    const unsure = (verdict: string): string =>
      change.verdict === verdict
        ? ''
        : ' Most requests take about as long as before: a few make the difference.';
    if (ratio >= NOTABLE)
      sentences.push(
        `${since} an average request takes *${ratio.toFixed(1)} times* as long.${unsure('slower')} ${growthSentence(overview)}`
      );
    else if (ratio <= 1 / NOTABLE)
      sentences.push(
        `${since} an average request is *${formatShare(1 - ratio)}* shorter.${unsure('faster')}`
      );
    else
      sentences.push(
        `${since} an average request takes as long as before, within ${formatShare(NOTABLE - 1)}.`
      );
  }
  const credit = creditSentence(overview);
  if (credit) sentences.push(credit);
  const [first] = rows;
  sentences.push(
    `*${first.name}*${first.service ? ` of ${first.service}` : ''} holds *${formatShare(first.share)}* of all time here: ${plural(first.count, 'request')} of ${formatDuration(first.meanNs)} on average.`
  );
  return sentences;
}

/** What a newer release no longer shows. */
function creditSentence({ fixed }: Overview): string {
  if (fixed.length === 0) return '';
  const [first] = fixed;
  const more =
    fixed.length > 1 ? ` So ${fixed.length === 2 ? 'is one more' : `are ${fixed.length - 1} more`}.` : '';
  return `*${first.title}* of *${first.endpoint}* is gone since *${first.release}*: 0 of ${plural(first.after, 'request')}, ${formatCount(first.found)} of ${formatCount(first.before)} before.${more}`;
}

function growthSentence({ growth, rows, turn, kind }: Overview): string {
  const grown = ACCOUNTS.filter((account) => growth[account] > 0).sort((a, b) => growth[b] - growth[a]);
  const sum = grown.reduce((total, account) => total + growth[account], 0);
  if (sum === 0) return '';
  const most: Account = grown[0];
  const worst = rows
    .filter(({ change }) => change.verdict === 'slower' && change.ratio >= NOTABLE)
    .sort((a, b) => b.share - a.share)[0];
  const where =
    worst && turn.kind === 'release' && kind === 'endpoints'
      ? ` It shows most in *${worst.name}*, *${worst.change.ratio.toFixed(1)} times* as long.`
      : '';
  return `*${formatShare(growth[most] / sum)}* of the new time is *${LOOKS[most].name.toLowerCase()}*.${where}`;
}
