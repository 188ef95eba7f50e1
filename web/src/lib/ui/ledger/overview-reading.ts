import { formatDuration, formatShare, plural } from '@tromix/core/text/format';
import type { Account } from '@tromix/core/trace/account';
import type { Overview } from '$lib/server/queries/overview';
import { ACCOUNTS, LOOKS } from '$lib/ui/kit/accounts';
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
    if (ratio >= NOTABLE && change.verdict !== 'faster')
      sentences.push(
        `${since} an average request takes *${ratio.toFixed(1)} times* as long. ${growthSentence(overview)}`
      );
    else if (ratio <= 1 / NOTABLE && change.verdict !== 'slower')
      sentences.push(`${since} an average request is *${formatShare(1 - ratio)}* shorter.`);
    else sentences.push(`${since} an average request takes as long as before.`);
  }
  const [first] = rows;
  sentences.push(
    `*${first.name}*${first.service ? ` of ${first.service}` : ''} holds *${formatShare(first.share)}* of all time here: ${plural(first.count, 'request')} of ${formatDuration(first.meanNs)} on average.`
  );
  return sentences;
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
