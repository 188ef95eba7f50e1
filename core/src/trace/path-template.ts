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

/**
 * Makes paths of files alike that differ only in ids: besides whole segments also what stands in a name between dots, dashes and underscores. So
 * `/gauges/17.log` becomes `/gauges/:id.log`, `dues_2026-11-30.csv` becomes `dues_:id.csv`; `http2.js` stays.
 */
export const templateFile = (path: string): string => templatePath(path).replace(ID_IN_NAME, ':id');

/** Dates and numbers, hexadecimal runs, and UUIDs as parts of a name; numbers of a version, `20.18.1`, are none. */
const ID_IN_NAME =
  /(?<=^|[-_/\\]|[a-z]\.)(?:[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}|\d{4}-\d{2}-\d{2}(?:T[\d:.Z-]*)?|(?=[a-f]*\d)[0-9a-f]{8,}|\d+)(?=$|[-_/\\]|\.[a-z])/gi;

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
