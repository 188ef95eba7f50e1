import { timingSafeEqual, createHash } from 'node:crypto';

export const SESSION_COOKIE = 'tromix_session';
const LOOPBACK = /^(?:127(?:\.\d{1,3}){3}|localhost|\[::1\])(?::\d+)?$/;
const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

export const isIngest = (path: string): boolean => /^\/v1(?:development)?\//.test(path);

/** What pages of other origins send here, and the script that sends it; it is guarded by itself: see http/collect.ts. */
export const isCollect = (path: string): boolean =>
  path === '/collect' || path === '/collect.js' || path.startsWith('/collect/');

/** Evidence sent by a script: it adds, and reads nothing. */
export const isUpload = (method: string, path: string): boolean =>
  method === 'POST' && path === '/api/evidence';

/** Names the server answers to: the loopback's and those of the setting. Others may be a page that re-points its own name here. */
export function hostAllowed(host: string | null, hosts: readonly string[]): boolean {
  if (host === null) return false;
  return LOOPBACK.test(host) || hosts.includes(host) || hosts.includes(host.replace(/:\d+$/, ''));
}

/** A change may only be asked by this server's own pages, or by something that is no page and sends no origin. */
export function originAllowed(request: Request): boolean {
  if (SAFE.has(request.method)) return true;
  const origin = request.headers.get('origin');
  if (origin === null) return true;
  return origin.replace(/^https?:\/\//, '') === request.headers.get('host');
}

export function equal(a: string, b: string): boolean {
  const digest = (text: string): Buffer => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(a), digest(b));
}

/** A place of this server out of an address somebody gave; the overview where it leads anywhere else. */
export function ownPlace(to: string | null): string {
  const HERE = 'http://tromix.invalid';
  try {
    const { origin, pathname, search, hash } = new URL(to ?? '/', HERE);
    // Parsed as browsers do: “/\\host” and “//host” have another origin. A path that still begins with two slashes would be one again.
    return origin === HERE && !pathname.startsWith('//') ? pathname + search + hash : '/';
  } catch {
    return '/';
  }
}

export function bearerOf(request: Request): string {
  return /^Bearer (.+)$/i.exec(request.headers.get('authorization') ?? '')?.[1] ?? '';
}
