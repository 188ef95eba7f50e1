import { formatCount, formatDuration, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { Account } from '@tromix/core/trace/account';
import type { Overview } from '$lib/server/queries/overview';
import { ACCOUNTS, LOOKS } from '$lib/ui/ledger/accounts';
import { shortTime } from '$lib/ui/kit/time';

/** Smaller changes are not mentioned. */
const NOTABLE = 1.15;

/** What the overview shows, in two or three sentences. */
export function overviewReading(overview: Overview): Words[] {
  if (overview.all.count === 0) return [['No requests in this time range.']];
  const [first] = overview.rows;
  return [
    changeSentence(overview),
    creditSentence(overview),
    words`${[first.name]}${first.service ? ` of ${first.service}` : ''} takes ${[formatShare(first.share)]} of all time here: ${plural(first.count, 'request')} of ${formatDuration(first.meanNs)} on average.`
  ].filter((sentence) => sentence.length > 0);
}

function changeSentence(overview: Overview): Words {
  const { turn, before, after, change } = overview;
  const ratio = after.meanNs / before.meanNs;
  if (before.count === 0 || after.count === 0 || !Number.isFinite(ratio)) return [];
  const since =
    turn.kind === 'release'
      ? words`Since ${[`release ${turn.release}`]} of ${[turn.service]} (${shortTime(turn.at, overview.window.toUs / 1000)}), `
      : ['Compared with the time before, '];
  // The mean and the test may disagree: a few requests move a mean, most requests decide the test.
  const unless = (verdict: string): string =>
    change.verdict === verdict
      ? ''
      : ' Most requests take about as long as before: a few make the difference.';
  if (ratio >= NOTABLE)
    return [
      ...since,
      ...words`an average request takes ${[`${ratio.toFixed(1)} times`]} as long.${unless('slower')}`,
      ...growthSentence(overview)
    ];
  if (ratio <= 1 / NOTABLE)
    return [
      ...since,
      ...words`an average request is ${[formatShare(1 - ratio)]} shorter.${unless('faster')}`
    ];
  return [...since, `an average request takes as long as before, within ${formatShare(NOTABLE - 1)}.`];
}

/** What a newer release no longer shows. */
function creditSentence({ fixed }: Overview): Words {
  if (fixed.length === 0) return [];
  const [first, ...others] = fixed;
  const more =
    others.length === 0 ? '' : ` So ${others.length === 1 ? 'is one more' : `are ${others.length} more`}.`;
  return words`${[first.title]} of ${[first.endpoint]} is gone since ${[first.release]}: 0 of ${plural(first.after, 'request')}, ${formatCount(first.found)} of ${formatCount(first.before)} before.${more}`;
}

function growthSentence({ growth, rows, turn, kind }: Overview): Words {
  const grown = ACCOUNTS.filter((account) => growth[account] > 0).sort((a, b) => growth[b] - growth[a]);
  const sum = grown.reduce((total, account) => total + growth[account], 0);
  if (sum === 0) return [];
  const most: Account = grown[0];
  const worst = rows
    .filter(({ change }) => change.verdict === 'slower' && change.ratio >= NOTABLE)
    .sort((a, b) => b.share - a.share)[0];
  return [
    ...words` ${[formatShare(growth[most] / sum)]} of the added time is ${[LOOKS[most].name.toLowerCase()]}.`,
    ...(worst && turn.kind === 'release' && kind === 'endpoints'
      ? words` ${[worst.name]} changed most: ${[`${worst.change.ratio.toFixed(1)} times`]} as long.`
      : [])
  ];
}
