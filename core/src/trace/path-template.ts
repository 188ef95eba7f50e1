import { isSecretWord } from '../mask/shapes';

/**
 * Segments of a path that name one thing among many: numbers, UUIDs (RFC 9562), hexadecimal runs of at least
 * eight digits with a digit among them, and calendar dates or date-times (ISO 8601).
 */
const ID_SEGMENT =
  /^(?:\d+|[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|(?=[a-f]*\d)[0-9a-f]{8,}|\d{4}-\d{2}-\d{2}(?:[T ].*)?)$/i;

/** Makes paths that differ only in ids alike: `/calls/8812/berth` becomes `/calls/:id/berth`. Addresses and tokens in a path are ids too. */
export function templatePath(path: string): string {
  return path
    .split('/')
    .map((segment) => {
      const text = decodeSegment(segment);
      return ID_SEGMENT.test(text) || isSecretWord(text) ? ':id' : segment;
    })
    .join('/');
}

/** The path of a URL or request target, without its query and fragment. */
export function pathOf(target: string): string {
  const withoutOrigin = target.replace(/^[a-z][a-z0-9+.-]*:\/\/[^/?#]*/i, '');
  const path = withoutOrigin.replace(/[?#].*$/s, '');
  return path === '' ? '/' : path;
}

function decodeSegment(segment: string): string {
  try {
    return decodeURIComponent(segment);
  } catch {
    return segment;
  }
}
