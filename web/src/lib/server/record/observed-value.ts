import * as v from 'valibot';
import { maskAttributes } from '@tromix/core/mask/attributes';
import { MASK } from '@tromix/core/mask/shapes';
import { cutText, wellFormed } from '@tromix/core/text/well-formed';
import type { AttributeValue } from '@tromix/core/trace/span';

/** Characters of a value that are shown, members of an object, and items of a list. */
export const MAX_VALUE = 200;
export const MAX_MEMBERS = 8;
const MAX_ITEMS = 5;

/** `Runtime.RemoteObject` of the Chrome DevTools Protocol, as far as it is read. */
export const Remote = v.object({
  type: v.string(),
  subtype: v.optional(v.string()),
  className: v.optional(v.string()),
  value: v.optional(v.unknown()),
  unserializableValue: v.optional(v.string()),
  description: v.optional(v.string()),
  objectId: v.optional(v.string()),
  preview: v.optional(
    v.object({
      overflow: v.optional(v.boolean()),
      subtype: v.optional(v.string()),
      properties: v.array(
        v.object({
          name: v.string(),
          type: v.string(),
          subtype: v.optional(v.string()),
          value: v.optional(v.string())
        })
      )
    })
  )
});
export type Remote = v.InferOutput<typeof Remote>;

/** A value as it is read: shortened, and masked by its name and its looks as everything that is kept. */
export function describe(name: string, value: Remote): string {
  const { type, subtype, preview, description = '' } = value;
  if (type === 'string') return quoted(name, String(value.value));
  if (type !== 'object' && type !== 'function')
    return masked(name, value.unserializableValue ?? String(value.value));
  if (subtype === 'null') return 'null';
  if (type === 'function') return 'a function';
  if (subtype === 'error') return masked('message', description.split('\n')[0]);
  if (!preview) return masked(name, description || value.className || 'an object');
  // V8 describes a list by its class and length: `Array(22)`.
  const length = /^\w+\(\d+\)$/.test(description) ? `${description} ` : '';
  return cutText(previewed(name, value.className ?? '', preview, length), MAX_VALUE);
}

function previewed(
  name: string,
  className: string,
  { subtype, properties, overflow }: NonNullable<Remote['preview']>,
  length = ''
): string {
  const isList = subtype === 'array' || subtype === 'typedarray';
  const inside = properties.slice(0, isList ? MAX_ITEMS : MAX_MEMBERS).map((property) => {
    const shown = ofProperty(isList ? name : property.name, property);
    return isList ? shown : `${property.name}: ${shown}`;
  });
  if (overflow || properties.length > inside.length) inside.push('…');
  const named = length || (['Object', 'Array', ''].includes(className) ? '' : `${className} `);
  return isList ? `${named}[${inside.join(', ')}]` : `${named}{ ${inside.join(', ')} }`;
}

function ofProperty(
  name: string,
  { type, subtype, value = '' }: NonNullable<Remote['preview']>['properties'][number]
): string {
  if (type === 'string') return quoted(name, value);
  if (type === 'object' && subtype !== 'null')
    return value === '' || value === 'Object' ? '{…}' : masked(name, value);
  return type === 'function' ? 'a function' : masked(name, value || type);
}

const POLICY = { hashKey: 0, keepLiterals: false };

function masked(name: string, text: string): string {
  const attributes = new Map<string, AttributeValue>([[name, text]]);
  maskAttributes(attributes, POLICY);
  const kept = attributes.get(name);
  return wellFormed(cutText(kept === undefined ? MASK : String(kept), MAX_VALUE));
}

const quoted = (name: string, text: string): string => JSON.stringify(masked(name, text));
