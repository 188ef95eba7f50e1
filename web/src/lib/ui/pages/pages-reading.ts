import { FULL_SCORE, VITAL_FACTS, VITALS, ratingOf, type Vital } from '@tromix/core/pages/vitals';
import { formatCount, formatShare, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import type { OnePage } from '$lib/server/queries/pages/one-page';
import type { PageFigures } from '$lib/server/queries/pages/page-figures';
import type { PageList } from '$lib/server/queries/pages/pages';
import { formatScore } from './page-columns';
import { formatVital, RATING_WORDS } from './vital-words';

/** The vitals of some loads that are poor, or else not good, the worst first. */
const notGood = ({ p75 }: PageFigures): { vital: Vital; value: number }[] =>
  VITALS.flatMap((vital) => {
    const value = p75[vital];
    return value !== null && ratingOf(vital, value) !== 'good' ? [{ vital, value }] : [];
  }).sort((a, b) => overLimit(b) - overLimit(a));
/** How far beyond its poor limit. */
const overLimit = ({ vital, value }: { vital: Vital; value: number }): number =>
  value / VITAL_FACTS[vital].limits[1];

const vitalWords = (vital: Vital, value: number): Words =>
  words`its ${VITAL_FACTS[vital].title} comes to ${[formatVital(vital, value)]} at the 75th percentile, which is ${RATING_WORDS[ratingOf(vital, value)]} (${formatVital(vital, VITAL_FACTS[vital].limits[0])} is called good)`;

/** What the list of pages shows. */
export function pagesReading({ pages, all }: PageList): Words[] {
  if (all.score === null)
    return [words`${plural(all.loads, 'load')}; no vital was measured of any, so none has a score.`];
  const sentences: Words[] = [
    words`${[plural(all.loads, 'load')]} score ${[formatScore(all.score)]} of ${formatCount(FULL_SCORE)} on average${all.scored < all.loads ? ` (${formatCount(all.scored)} of them have a score)` : ''}.`
  ];
  const [first] = pages;
  if (!first || first.worth < 0.05) return [...sentences, ['Every page is good: no page is worth a point.']];
  const [worst] = notGood(first);
  sentences.push([
    ...words`${[first.name]} is worth most: if every load of it were good, the mean would gain ${[plural(Number(first.worth.toFixed(1)), 'point')]}`,
    ...(worst ? ['; ', ...vitalWords(worst.vital, worst.value)] : []),
    '.'
  ]);
  const lost = FULL_SCORE - all.score;
  const [, second] = pages;
  if (second && second.worth >= 0.05)
    sentences.push(
      words`Next comes ${[second.name]} with ${second.worth.toFixed(1)}. The two are ${formatShare((first.worth + second.worth) / lost)} of all that is lost.`
    );
  return sentences;
}

/** What one page shows. */
export function pageReading({ figures, before, lookedAt }: OnePage): Words[] {
  if (figures.loads === 0) return [['No load of it in this time range.']];
  const sentences: Words[] = [];
  const bad = notGood(figures);
  if (figures.score !== null)
    sentences.push(
      words`${[plural(figures.loads, 'load')]} score ${[formatScore(figures.score)]} on average.`
    );
  if (bad.length > 0) {
    const [{ vital, value }] = bad;
    sentences.push(['Worst: ', ...vitalWords(vital, value), '.']);
  } else if (figures.score !== null)
    sentences.push(['At the 75th percentile every vital that was measured is good.']);
  const [first] = before.filter(({ what }) => what !== 'nothing');
  if (first)
    sentences.push(
      words`Before the largest paint most time goes into ${[beforeName(first)]}: ${formatVital('lcp', first.meanMs)} on average, and it stands there in ${formatShare(first.share)} of the ${plural(lookedAt, 'load')} that were looked at one by one.`
    );
  return sentences;
}

const WHATS: Record<OnePage['before'][number]['what'], string> = {
  document: 'the document',
  style: 'a style sheet',
  script: 'a script',
  data: 'a call',
  picture: 'a picture',
  font: 'a font',
  other: 'a file',
  task: 'a long task',
  nothing: 'what the browser does not tell'
};

/** What stands before the paint, in words. */
export const beforeName = ({ what, name }: Pick<OnePage['before'][number], 'what' | 'name'>): string =>
  name ? `${WHATS[what]}, ${name}` : WHATS[what];
