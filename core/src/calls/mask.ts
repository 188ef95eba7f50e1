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
 * Masks a span at the door: its call is identified, then literals, URL values and secrets are taken out of its
 * attributes and of those of its events. Takes the span over: its attributes are changed in place, which
 * saves a copy of every one of them.
 */
export function maskSpan(raw: RawSpan, options: MaskOptions): Span {
  const call = identifyCall(raw, options.hashKey);
  const keep = options.keepLiteralsOf.has(raw.resource.service);
  maskAttributes(raw.attributes, keep);
  for (const event of raw.events) maskAttributes(event.attributes, keep);
  return Object.assign(raw, { call });
}

type Treatment = 'keep' | 'secret' | 'statement' | 'url';
/** Names repeat in every span: each is judged once. Bounded, since names come from outside. */
const treatments = new Map<string, Treatment>();
const MAX_TREATMENTS = 5000;

function treatmentOf(name: string): Treatment {
  const known = treatments.get(name);
  if (known) return known;
  const treatment = SECRET.test(name)
    ? 'secret'
    : STATEMENT.test(name)
      ? 'statement'
      : URL_NAME.test(name)
        ? 'url'
        : 'keep';
  if (treatments.size >= MAX_TREATMENTS) treatments.clear();
  treatments.set(name, treatment);
  return treatment;
}

/** Takes secrets, statements and URL values out of attributes, in place. */
export function maskAttributes(attributes: Attributes, keepLiterals: boolean): void {
  for (const [name, value] of attributes) {
    const treatment = treatmentOf(name);
    if (treatment === 'secret' || (treatment === 'statement' && !keepLiterals)) attributes.delete(name);
    else if (treatment === 'url' && !keepLiterals) attributes.set(name, maskUrl(name, value));
  }
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
