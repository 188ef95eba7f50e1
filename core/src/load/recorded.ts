import { textOf, type Span } from '../trace/span';
import type { ReadSteps } from './curl';

/** Methods that carry a body as a rule (RFC 9110, 9.3). */
const WITH_BODY = new Set(['POST', 'PUT', 'PATCH']);

/**
 * A request that was recorded, as a step. What the span does not hold (its body, most headers, masked values of the query) is asked for in the notes.
 * @param span the entry span of an HTTP request, client or server.
 */
export function stepOfSpan({ attributes, name }: Pick<Span, 'attributes' | 'name'>): ReadSteps {
  const text = (...names: string[]): string => textOf(attributes, ...names);
  const method = text('http.request.method', 'http.method').toUpperCase();
  if (!method || method === '_OTHER')
    return {
      ok: false,
      message: `“${name}” is no HTTP request: it names no method. Type its steps instead.`
    };
  const whole = text('url.full', 'http.url');
  const host = text('server.address', 'net.host.name', 'http.host');
  const port = text('server.port', 'net.host.port');
  const target = text('http.target') || (text('url.path') || '/') + query(text('url.query'));
  const scheme = text('url.scheme', 'http.scheme') || 'http';
  const place =
    host.includes(':') && !host.startsWith('[') && host.split(':').length > 2 ? `[${host}]` : host;
  const withPort = port && !/:\d+$/.test(host) ? `${place}:${port}` : place;
  if (!whole && !host)
    return { ok: false, message: `The address of “${name}” was not recorded. Type it instead.` };
  const url = whole || `${scheme}://${withPort}${target}`;
  const notes: string[] = [];
  if (/[=&]\?(?:&|$)/.test(url) || url.includes('=?'))
    notes.push('Values of the query are not kept: put them in place of each question mark.');
  if (WITH_BODY.has(method)) notes.push('Its body was not recorded: give one below.');
  const agent = text('user_agent.original', 'http.user_agent');
  return {
    ok: true,
    notes,
    steps: [{ method, url, headers: agent ? [['user-agent', agent]] : [], body: '' }]
  };
}

const query = (text: string): string => (text ? `?${text}` : '');
