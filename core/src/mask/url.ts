import { isSecretName } from './names';
import { isSecretWord, MASK } from './shapes';

/** The parts of a query (WHATWG URL, application/x-www-form-urlencoded): names stay, values go. What has no name is a value. */
export function maskQuery(query: string): string {
  return query
    .split('&')
    .filter(Boolean)
    .map((pair) => {
      const at = pair.indexOf('=');
      return at > 0 ? `${pair.slice(0, at)}=${MASK}` : MASK;
    })
    .join('&');
}

/** A percent-encoded text decoded; one that is badly encoded as it is. */
export function decoded(segment: string): string {
  try {
    return decodeURIComponent(segment);
  } catch {
    return segment;
  }
}

/** A path whose segments that open doors or name people are masked; so is what follows a segment that names a secret (`/token/abc`). */
export function maskPath(path: string): string {
  const segments = path.split('/');
  return segments
    .map((segment, i) => {
      if (segment === '' || segment.startsWith(':') || segment.startsWith('{')) return segment;
      const text = decoded(segment);
      // Parameters within a segment (RFC 3986, 3.3): `;jsessionid=…`.
      const at = text.indexOf(';');
      if (at >= 0) return `${isSecretWord(text.slice(0, at)) ? MASK : text.slice(0, at)};${MASK}`;
      const before = i > 0 ? segments[i - 1] : '';
      const named =
        before !== '' && /^[a-z-]+$/i.test(before) && isSecretName(before) && /[\d@]|.{12}/.test(text);
      return named || isSecretWord(text) ? MASK : segment;
    })
    .join('/');
}

/** A URL without user information, values of its query and its fragment. */
export function maskUrl(url: string): string {
  const found =
    /^([a-z][a-z0-9+.-]{0,30}:(?:[a-z0-9]{1,30}:){0,3}\/\/)?([^/?#]*)([^?#]*)(?:\?([^#]*))?(?:#.*)?$/is.exec(
      url
    );
  if (!found) return MASK;
  const [, scheme = '', authority, path, query] = found;
  // Without a scheme it is a target: what stands before the first slash is a path.
  // Some write parameters behind it, after a semicolon.
  const [place, ...parameters] = authority.split(';');
  const host = scheme ? place.slice(place.lastIndexOf('@') + 1) : maskPath(place);
  const suffix = query === undefined ? '' : `?${maskQuery(query)}`;
  if (parameters.length > 0) return `${scheme}${host};${MASK}`;
  return `${scheme}${host}${maskPath(path)}${suffix}`;
}

/** URLs within a text. What ends a sentence is not theirs. */
const URLS = /(?<![a-z0-9+.-])[a-z][a-z0-9+.-]{0,30}:(?:[a-z0-9]{1,30}:){0,3}\/\/[^\s"'<>`{}|\\^]+/gi;

export const maskUrls = (text: string): string =>
  text.includes('://')
    ? text.replace(URLS, (url) => {
        // A mask that stands for a value is no end of a sentence.
        const end = /(?<!=)[.,;:!?)\]]+$/.exec(url)?.[0] ?? '';
        const whole = url.slice(0, url.length - end.length);
        return connectionString(whole) + end;
      })
    : text;

/** `jdbc:…;password=…` carries its parameters behind semicolons, others as a query. */
function connectionString(url: string): string {
  const at = url.indexOf(';');
  return at < 0 ? maskUrl(url) : `${maskUrl(url.slice(0, at))};${MASK}`;
}
