import type { ChainStep } from '@tromix/core/pages/chain';
import { shortUrl } from '@tromix/core/pages/load-rows';
import type { PageLoad, PageResource } from '@tromix/core/pages/page-load';
import { ratingOf, VITAL_FACTS } from '@tromix/core/pages/vitals';
import { formatDuration, plural } from '@tromix/core/text/format';
import { words, type Words } from '@tromix/core/text/words';
import { formatVital, RATING_WORDS } from './vital-words';

const ms = (value: number): string => formatDuration(value * 1e6);

/** Under this share of the way nothing is said of it. */
const SMALL = 0.1;

const PARTS: { of: (load: PageLoad, step: ChainStep) => boolean; words: string }[] = [
  { of: isOf('script'), words: 'script that has to be there first' },
  { of: (_, { of }) => of === 'task', words: 'long tasks' },
  { of: isOf('style'), words: 'style sheets' },
  { of: isOf('document'), words: 'the document' },
  { of: isOf('data'), words: 'data that the page asked for' },
  { of: isOf('picture'), words: 'the picture itself' },
  { of: isOf('font', 'other'), words: 'other files' },
  { of: (_, { of }) => of === 'nothing', words: 'what the browser does not tell' }
];

function isOf(...kinds: PageResource['kind'][]) {
  return (load: PageLoad, step: ChainStep): boolean =>
    step.of === 'resource' && kinds.includes(load.resources[step.index].kind);
}

/** What a load shows, in a few sentences. */
export function loadReading(load: PageLoad, chain: readonly ChainStep[]): Words[] {
  const { largest } = load;
  if (!largest) return [untold(load)];
  const what = largest.url ? shortUrl(largest.url) : elementName(largest.element);
  const rating = ratingOf('lcp', largest.atMs);
  const sentences: Words[] = [
    words`The largest paint, ${[what]}, came at ${[ms(largest.atMs)]}${rating === 'good' ? ', which is good' : `; ${ms(VITAL_FACTS.lcp.limits[0])} is called good`}.`
  ];
  const parts = PARTS.map(({ of, words }) => ({
    words,
    sumMs: chain.filter((step) => of(load, step)).reduce((sum, { fromMs, toMs }) => sum + toMs - fromMs, 0)
  }))
    .filter(({ sumMs }) => sumMs >= SMALL * largest.atMs)
    .sort((a, b) => b.sumMs - a.sumMs);
  const [first, second, third] = parts;
  if (first)
    sentences.push([
      ...words`${[ms(first.sumMs)]} of it went into ${first.words}`,
      ...(second ? words`, ${[ms(second.sumMs)]} into ${second.words}` : []),
      ...(third ? words` and ${[ms(third.sumMs)]} into ${third.words}` : []),
      '.'
    ]);
  const answer = answerWords(load, largest.atMs);
  if (answer) sentences.push(answer);
  return sentences;
}

/** A selector of `web-vitals` without what every element has. */
const elementName = (selector: string): string => selector.replace(/^html>body>/, '') || 'a text';

/** The part of the server: the time to the first byte. */
function answerWords({ vitals: { ttfb } }: PageLoad, paintMs: number): Words | null {
  if (ttfb === undefined) return null;
  const rating = ratingOf('ttfb', ttfb);
  const isMuch = ttfb >= 0.25 * paintMs && rating !== 'good';
  return words`The answer of the server took ${ms(ttfb)} of it: ${isMuch ? `that is ${RATING_WORDS[rating]}` : 'the server is not what makes this load slow'}.`;
}

/** Without a largest paint only the load event is told, if that. */
function untold({ loadedMs, resources, navigation }: PageLoad): Words {
  if (navigation === 'restored')
    return ['The page was kept and shown again: nothing was fetched, and no paint waited for anything.'];
  const loaded = loadedMs === null ? '' : ` Its load event was over at ${ms(loadedMs)}.`;
  return words`Nobody told when the largest paint came.${loaded} ${plural(resources.length, 'file')} ${resources.length === 1 ? 'was' : 'were'} fetched.`;
}

/** What is told of a load beside its time, for its heading. */
export const loadFacts = ({ device, connection, release, country, navigation }: PageLoad): string =>
  [
    device,
    connection,
    country,
    release && `release ${release}`,
    navigation === 'navigate' ? '' : navigation === 'restored' ? 'kept and shown again' : navigation
  ]
    .filter(Boolean)
    .join(', ');

/** The heading: when the largest paint came, else what else is known. */
export function loadTitle({ largest, loadedMs, vitals }: PageLoad): { figure: string; words: string } {
  if (largest) return { figure: formatVital('lcp', largest.atMs), words: 'to the largest paint' };
  if (loadedMs !== null) return { figure: ms(loadedMs), words: 'to the load event' };
  if (vitals.ttfb !== undefined) return { figure: ms(vitals.ttfb), words: 'to the first byte' };
  return { figure: 'not told', words: 'how long it took' };
}
