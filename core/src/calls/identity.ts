import { pathOf, templateFile, templatePath } from '../trace/path-template';
import { SpanKind, numberOf, textOf, type Attributes, type Span } from '../trace/span';
import type { CallIdentity } from './call';
import { maskJson } from '../mask/json';
import { isSecretWord } from '../mask/shapes';
import { maskName } from '../mask/text';
import { connectionStep } from './connection';
import { hash53 } from './hash';
import { fingerprintSql } from './sql/fingerprint';
import { dialectOf } from './sql/tokens';

type Asked = Pick<CallIdentity, 'kind' | 'fingerprint' | 'verb'> & { literals: string[] };

const CACHE_SYSTEMS = new Set([
  'redis',
  'memcached',
  'valkey',
  'keydb',
  'dragonfly',
  'hazelcast',
  'infinispan',
  'ehcache'
]);

/** True for systems whose calls are booked as cache. */
export function isCacheSystem(system: string): boolean {
  return CACHE_SYSTEMS.has(system.toLowerCase());
}

/**
 * Says what a span calls; null for a span that calls nothing outside its own code.
 * @param key keys the hash of the literals, see `hash53`.
 */
export function identifyCall(span: Omit<Span, 'call'>, key: number): CallIdentity | null {
  if (span.kind === SpanKind.SERVER || span.kind === SpanKind.CONSUMER || connectionStep(span) !== null)
    return null;
  const asked = askedOf(span);
  if (!asked) return null;
  const a = span.attributes;
  const literals = asked.literals.length > 0 ? hash53(asked.literals.join('\u0000'), key) : null;
  const rows = rowsOf(numberOf(a, 'db.response.returned_rows', 'db.response.affected_rows'));
  return {
    kind: asked.kind,
    fingerprint: asked.fingerprint,
    literals,
    origin: originOf(a),
    rows,
    verb: asked.verb
  };
}

/** More rows than any table has are damage: a number that is no such count is not known. */
const MAX_ROWS = 1e12;
const rowsOf = (value: number | undefined): number | null =>
  value !== undefined && Number.isInteger(value) && value >= 0 && value <= MAX_ROWS ? value : null;

function askedOf(span: Omit<Span, 'call'>): Asked | null {
  const a = span.attributes;
  const system = textOf(a, 'db.system.name', 'db.system');
  if (system) return isCacheSystem(system) ? cacheCall(span, a) : databaseCall(span, a, system);
  if (a.has('messaging.system') || span.kind === SpanKind.PRODUCER) return messagingCall(span, a);
  if (a.has('rpc.system') || a.has('rpc.system.name')) {
    const method = textOf(a, 'rpc.method');
    const service = textOf(a, 'rpc.service');
    const fingerprint = [service, method].filter(Boolean).join('/') || maskName(span.name);
    return { kind: 'rpc', fingerprint, verb: method, literals: [] };
  }
  const httpMethod = textOf(a, 'http.request.method', 'http.method');
  if (span.kind === SpanKind.CLIENT && httpMethod) return httpCall(a, httpMethod);
  const file = textOf(a, 'file.path', 'file.name');
  if (file) {
    const operation = textOf(a, 'file.operation') || maskName(span.name);
    return {
      kind: 'file',
      fingerprint: `${operation} ${templateFile(file)}`,
      verb: operation,
      literals: [file]
    };
  }
  return null;
}

function databaseCall(span: Omit<Span, 'call'>, a: Attributes, system: string): Asked {
  const text = textOf(a, 'db.query.text', 'db.statement');
  const parameters = parametersOf(a);
  const document = /^\s*[[{]/.test(text) ? maskJson(text) : null;
  if (document !== null) {
    const operation = textOf(a, 'db.operation.name', 'db.operation');
    const target = textOf(a, 'db.collection.name', 'db.mongodb.collection');
    const fingerprint = [operation, target, document].filter(Boolean).join(' ');
    return { kind: 'database', fingerprint, verb: operation.toLowerCase(), literals: [text, ...parameters] };
  }
  if (text) {
    const sql = fingerprintSql(text, dialectOf(system));
    const verb = /^\w+/.exec(sql.text)?.[0].toLowerCase() ?? '';
    // Bound parameters that were not recorded leave the literals unknown, and so does a text that was cut off.
    const known = sql.whole && (sql.parameters === 0 || parameters.length > 0);
    const literals = known ? [...sql.literals, ...parameters] : [];
    return {
      kind: 'database',
      fingerprint: sql.text,
      verb,
      literals: known && literals.length === 0 ? [''] : literals
    };
  }
  const operation = textOf(a, 'db.operation.name', 'db.operation');
  const target = textOf(a, 'db.collection.name', 'db.sql.table', 'db.namespace', 'db.name');
  const fingerprint = [operation, target].filter(Boolean).join(' ') || maskName(span.name);
  return { kind: 'database', fingerprint, verb: operation.toLowerCase(), literals: parameters };
}

/** Values, or in their place a hash that is equal for equal values (`tromix run` sends it). */
const PARAMETER = /^(?:db\.(?:query|operation)\.parameter\.|tromix\.db\.parameters\.hash$)/;

function parametersOf(a: Attributes): string[] {
  const values: string[] = [];
  for (const [name, value] of a) if (PARAMETER.test(name)) values.push(`${name}=${JSON.stringify(value)}`);
  return values.sort();
}

/** Commands of key-value stores whose first argument is no key but a value, a script or a password. */
const WITHOUT_KEY = new Set([
  'auth',
  'hello',
  'acl',
  'config',
  'client',
  'eval',
  'evalsha',
  'eval_ro',
  'evalsha_ro',
  'fcall',
  'script',
  'function',
  'echo',
  'ping',
  'select',
  'migrate',
  'multi',
  'exec'
]);

function cacheCall(span: Omit<Span, 'call'>, a: Attributes): Asked {
  const text = textOf(a, 'db.query.text', 'db.statement');
  const words = text.trim().split(/\s+/).filter(Boolean);
  const named = textOf(a, 'db.operation.name', 'db.operation') || words[0] || span.name;
  const operation = /^[\w.-]{1,40}$/.test(named) ? named.toLowerCase() : '(command)';
  const hasKey = words[0]?.toLowerCase() === operation && !WITHOUT_KEY.has(operation);
  const cacheKey = hasKey ? (words[1] ?? '') : '';
  const pattern = cacheKey
    .replace(/^["']|["']$/g, '')
    .split(/([:/.|])/)
    .map((part) => (/[\d@]/.test(part) || isSecretWord(part) ? '*' : part))
    .join('');
  const literals = cacheKey ? [text] : [];
  return { kind: 'cache', fingerprint: `${operation} ${pattern}`.trim(), verb: operation, literals };
}

function messagingCall(span: Omit<Span, 'call'>, a: Attributes): Asked {
  const operation =
    textOf(a, 'messaging.operation.name', 'messaging.operation.type', 'messaging.operation') || 'send';
  const destination = maskName(
    textOf(
      a,
      'messaging.destination.name',
      'messaging.destination',
      // RabbitMQ's default exchange has no name: the key says where a message goes.
      'messaging.rabbitmq.destination.routing_key',
      'messaging.rabbitmq.routing_key'
    ) || span.name
  );
  return { kind: 'messaging', fingerprint: `${operation} ${destination}`, verb: operation, literals: [] };
}

function httpCall(a: Attributes, method: string): Asked {
  const url = textOf(a, 'url.full', 'http.url');
  const target = url || textOf(a, 'url.path', 'http.target') || '/';
  const host =
    /^[a-z][a-z0-9+.-]*:\/\/(?:[^/?#@]*@)?([^/?#]*)/i.exec(url)?.[1] ??
    textOf(a, 'server.address', 'net.peer.name', 'http.host');
  const path = pathOf(target);
  const query = /\?([^#]*)/.exec(target)?.[1] ?? textOf(a, 'url.query');
  // A part without a name is a value.
  const names = [
    ...new Set(query.split('&').map((pair) => (pair.includes('=') ? pair.split('=')[0] : pair && '?')))
  ]
    .filter(Boolean)
    .sort();
  const suffix = names.length > 0 ? `?${names.join('&')}` : '';
  return {
    kind: 'http',
    fingerprint: `${method} ${host}${templatePath(path)}${suffix}`,
    verb: method,
    literals: [`${path}?${query}`]
  };
}

/** `file:line function`, from the code attributes, as far as they are there. */
export function originOf(a: Attributes): string {
  const file = textOf(a, 'code.file.path', 'code.filepath');
  const line = numberOf(a, 'code.line.number', 'code.lineno');
  const name = textOf(a, 'code.function.name', 'code.function');
  const place = file && line !== undefined ? `${file}:${line}` : file;
  return [place, name].filter(Boolean).join(' ');
}
