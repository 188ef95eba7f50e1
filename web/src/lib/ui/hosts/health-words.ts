import { formatCount, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { Health } from '$lib/server/queries/hosts/health';

/** How often, so many a minute. */
export const rateOf = (perMinute: number): string =>
  `${perMinute < 10 ? perMinute.toFixed(1) : formatCount(Math.round(perMinute))}/min`;

/** Better, worse or steady, by the rank test against the time before. */
export function healthWord({ change, perMinuteBefore }: Health): string {
  if (change.verdict === 'too few') return perMinuteBefore === 0 ? 'none before' : 'too few';
  return { slower: 'worse', faster: 'better', 'no clear change': 'steady' }[change.verdict];
}

/** How the requests of a host or service fare, in a sentence; null where it serves none. */
export function healthSentence(name: string, health: Health | null): Words | null {
  if (!health || health.requests === 0) return null;
  const { change, perMinute, perMinuteBefore, requests } = health;
  const before = perMinuteBefore === 0 ? 'none' : rateOf(perMinuteBefore);
  const often = words`${[rateOf(perMinute)]}, ${before} in as long a time before`;
  const all = `${plural(requests, 'request')} of ${name}`;
  if (perMinuteBefore === 0) return [`${all}: `, ...often, '.'];
  if (change.verdict === 'too few')
    return [`${all}: `, ...often, '. Too few on one side to say whether they became slower.'];
  const ratio =
    change.verdict === 'no clear change'
      ? ''
      : `: the same endpoints took ${change.ratio.toFixed(2)} times as long at the median`;
  return [`${all} are `, [healthWord(health)], `${ratio}. `, ...often, '.'];
}
