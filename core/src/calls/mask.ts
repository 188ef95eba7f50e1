import { maskAttributes, type MaskPolicy } from '../mask/attributes';
import { maskName, maskText } from '../mask/text';
import type { Resource, Span } from '../trace/span';
import { identifyCall } from './identity';

export interface MaskOptions {
  /** Keys the hash of the literals. */
  hashKey: number;
  /** Services whose statements keep their literals, by their owner's wish. */
  keepLiteralsOf: ReadonlySet<string>;
}

/** What a span looked like before it was masked: `call` is not known yet. */
export type RawSpan = Omit<Span, 'call'>;

/**
 * Masks a span at the door: its call is identified, then everything that came with it is masked as `mask/` says: name, status, attributes,
 * those of its events and of its process. Takes the span over: its attributes are changed in place, which saves a copy of every one of them.
 */
export function maskSpan(raw: RawSpan, options: MaskOptions): Span {
  const call = identifyCall(raw, options.hashKey);
  const policy: MaskPolicy = {
    hashKey: options.hashKey,
    keepLiterals: options.keepLiteralsOf.has(raw.resource.service)
  };
  maskAttributes(raw.attributes, policy);
  for (const event of raw.events) {
    event.name = maskText(event.name, 'message');
    maskAttributes(event.attributes, policy);
  }
  if (!policy.keepLiterals) raw.name = maskName(raw.name);
  raw.statusMessage = maskText(raw.statusMessage, 'message');
  raw.resource = maskResource(raw.resource, options);
  return Object.assign(raw, { call });
}

/** Processes are shared by the spans of a batch: each is masked once. */
const masked = new WeakMap<Resource, Resource>();

/** A process without what its attributes give away: command line, environment, connection strings, and the like. */
export function maskResource(resource: Resource, { hashKey, keepLiteralsOf }: MaskOptions): Resource {
  let known = masked.get(resource);
  if (!known) {
    maskAttributes(resource.attributes, { hashKey, keepLiterals: keepLiteralsOf.has(resource.service) });
    const name = (text: string): string => maskText(text, 'name');
    known = {
      ...resource,
      service: name(resource.service),
      host: name(resource.host),
      release: name(resource.release),
      key: name(resource.key)
    };
    masked.set(resource, known);
    masked.set(known, known);
  }
  return known;
}
