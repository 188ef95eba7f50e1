import { formatDuration, formatShare, plural } from '../text/format';
import type { Condition } from './condition';
import { figureOf } from './figures';
import type { Watched } from './watched';

const PLACE_NAMES = ['service', 'host', 'release'] as const;

/** Where something is watched: `POST /berths of berths on quay-2`; '' for everywhere. */
function placeWords(place: { service: string; endpoint: string; host: string; release: string }): string {
  const [of, on, at] = PLACE_NAMES.map((name) => place[name]);
  const host = on.startsWith('!') ? `outside of ${on.slice(1)}` : on && `on ${on}`;
  return [place.endpoint, of && (place.endpoint ? `of ${of}` : of), host, at && `in release ${at}`]
    .filter(Boolean)
    .join(' ');
}

/** What is watched, without its figure: `POST /berths of berths on quay-2`. */
export function subjectWords(watched: Watched): string {
  const where = 'place' in watched ? placeWords(watched.place) : '';
  const having =
    'attributes' in watched && watched.attributes.length > 0
      ? ` with ${watched.attributes.join(' and ')}`
      : '';
  switch (watched.of) {
    case 'requests':
      return `${where || 'all requests'}${having}`;
    case 'calls':
      return `${watched.fingerprint || 'calls'}${where ? ` in ${where}` : ''}${having}`;
    case 'finding':
      return `${watched.rule}${watched.subject ? ` of ${watched.subject}` : ''}${where ? ` in ${where}` : ''}`;
    case 'failures':
      return `${watched.failure ? 'a failure' : 'failures'}${where ? ` in ${where}` : ''}`;
    case 'crashes':
      return where || 'all processes';
    case 'counter':
      return `${watched.name}${where ? ` of ${where}` : ''}${having}`;
    case 'measure':
      return watched.host;
    case 'vital':
      return [
        watched.page || 'all pages',
        watched.site && `of ${watched.site}`,
        ...Object.values(watched.audience)
          .filter(Boolean)
          .map((value) => `with ${value}`)
      ]
        .filter(Boolean)
        .join(' ');
  }
}

/** The figure and what it is of: `p95 of POST /berths of berths`. */
export const watchedWords = (watched: Watched): string => {
  const { title } = figureOf(watched);
  if (watched.of === 'failures' && watched.figure === 'new')
    return `new or returned ${subjectWords(watched)}`;
  if (watched.of === 'crashes') return `crashes of ${subjectWords(watched)}`;
  if (watched.of === 'counter') {
    const folded = watched.fold === 'mean' ? '' : `, ${watched.fold} of its series`;
    return `${watched.part === 'value' ? '' : `${title} of `}${subjectWords(watched)}${folded}`;
  }
  return `${title} of ${subjectWords(watched)}`;
};

const AGAINST_WORDS = {
  day: 'at the same time the day before',
  week: 'at the same time a week before',
  release: 'in the release before'
} as const;

/** What the present is held against: `in the release before`. */
export const againstWords = (limit: Condition['limit']): string =>
  limit.by === 'before' ? AGAINST_WORDS[limit.against] : '';

const minutesWords = (minutes: number): string =>
  minutes === 1 ? 'each minute' : `over ${formatDuration(minutes * 60e9)}`;

/** When a watch comes on: `over 5 min above 500 ms, for 3 minutes`. */
export function limitWords({ watched, limit, over, for: inRow }: Condition): string {
  const { text } = figureOf(watched);
  const row = inRow === 1 ? '' : `, ${plural(inRow, 'minute')} in a row`;
  const at =
    limit.by === 'number'
      ? `${limit.side} ${text(limit.on)}`
      : `clearly worse than ${AGAINST_WORDS[limit.against]}, by more than ${formatShare(limit.on)}`;
  return `${minutesWords(over)} ${at}${row}`;
}

/** When it goes off again. */
export function offWords({ watched, limit, for: inRow }: Condition): string {
  const { text } = figureOf(watched);
  const row = inRow === 1 ? '' : `, ${plural(inRow, 'minute')} in a row`;
  return limit.by === 'number'
    ? `${limit.side === 'above' ? 'at most' : 'at least'} ${text(limit.off)}${row}`
    : `worse by at most ${formatShare(limit.off)}${row}`;
}

/** The whole condition as one sentence. */
export const conditionWords = (condition: Condition): string =>
  `${watchedWords(condition.watched)} ${limitWords(condition)}`;
