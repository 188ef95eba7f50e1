import { pathOf } from '../trace/path-template';
import type { Attributes, AttributeValue, Span } from '../trace/span';
import { identifyCall } from './identity';

/** Names of attributes that carry secrets: these are dropped whole. */
const SECRET =
  /(?:^|[._-])(?:authorization|cookie|set-cookie|token|secret|passw(?:or)?d|api[._-]?key|credential|session[._-]?id|private[._-]?key)s?(?:$|[._-])/i;
/** Statement texts and their parameters: the call's fingerprint stands for them. */
const STATEMENT =
  /^db\.(?:query\.text|statement|query\.parameter\..*|operation\.parameter\..*|user|connection_string)$/;
const URL_NAME = /^(?:url\.full|http\.url|http\.target|url\.query)$/;

export interface MaskOptions {
  /** Keys the hash of the literals. */
  hashKey: number;
  /** Services whose statements keep their literals, by their owner's wish. */
  keepLiteralsOf: ReadonlySet<string>;
}

/** What a span looked like before it was masked: `call` is not known yet. */
export type RawSpan = Omit<Span, 'call'>;

/**
 * Masks a span at the door: its call is identified, then literals, URL values and secrets are dropped from its
 * attributes and from those of its events. The span given is not changed.
 */
export function maskSpan(raw: RawSpan, options: MaskOptions): Span {
  const call = identifyCall(raw, options.hashKey);
  const keep = options.keepLiteralsOf.has(raw.resource.service);
  const attributes = maskAttributes(raw.attributes, keep);
  const events = raw.events.map((event) => ({
    ...event,
    attributes: maskAttributes(event.attributes, keep)
  }));
  return { ...raw, attributes, events, call };
}

function maskAttributes(attributes: Attributes, keepLiterals: boolean): Attributes {
  const masked: Attributes = new Map();
  for (const [name, value] of attributes) {
    if (SECRET.test(name)) continue;
    if (!keepLiterals && STATEMENT.test(name)) continue;
    masked.set(name, !keepLiterals && URL_NAME.test(name) ? maskUrl(name, value) : value);
  }
  return masked;
}

function maskUrl(name: string, value: AttributeValue): AttributeValue {
  if (typeof value !== 'string') return value;
  const query = name === 'url.query' ? value : (/\?([^#]*)/.exec(value)?.[1] ?? '');
  const names = query
    .split('&')
    .filter(Boolean)
    .map((pair) => `${pair.split('=')[0]}=?`)
    .join('&');
  if (name === 'url.query') return names;
  const origin =
    /^[a-z][a-z0-9+.-]*:\/\/(?:[^/?#@]*@)?[^/?#]*/i.exec(value)?.[0].replace(/\/\/[^/@]*@/, '//') ?? '';
  return `${origin}${pathOf(value)}${names ? `?${names}` : ''}`;
}
