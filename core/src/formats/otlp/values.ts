import { EvidenceError } from '../evidence-error';
import { cutValue, wellFormed } from '../../text/well-formed';
import type { Attributes, AttributeValue } from '../../trace/span';

/** A 64-bit integer as the protobuf library gives it. */
interface Long {
  low: number;
  high: number;
}

/** A moment: whole epoch microseconds and the nanoseconds (0 to 999) beyond them. */
export interface Moment {
  us: number;
  ns: number;
}

/** Decoded protobuf messages and parsed JSON have this shape in common. */
export type Loose = { [field: string]: unknown };

export interface ValueLimits {
  /** Most attributes of one span, event or resource. */
  attributes: number;
  /** Most characters of one value. */
  valueLength: number;
  /** Deepest nesting of lists and maps in one value. */
  depth: number;
}

export const DEFAULT_VALUE_LIMITS: ValueLimits = { attributes: 256, valueLength: 16_384, depth: 16 };

const isLong = (value: unknown): value is Long =>
  typeof value === 'object' &&
  value !== null &&
  typeof (value as Long).low === 'number' &&
  typeof (value as Long).high === 'number';

/** A moment from the two halves of `fixed64` nanoseconds since the epoch; null for 0, which stands for no time. */
export function momentFrom(low: number, high: number): Moment | null {
  // 2^32 ns = 4 294 967 µs + 296 ns: split so that every product stays below 2^53.
  const rest = high * 296 + low;
  const us = high * 4_294_967 + Math.floor(rest / 1000);
  return us === 0 ? null : { us, ns: rest % 1000 };
}

/** Reads `fixed64` nanoseconds since the epoch exactly, from protobuf or from JSON's decimal text; null where it is no time. */
export function momentOf(value: unknown): Moment | null {
  if (isLong(value)) return momentFrom(value.low >>> 0, value.high >>> 0);
  if (typeof value === 'number')
    return momentOf(Number.isSafeInteger(value) ? String(value) : value.toFixed(0));
  if (typeof value !== 'string' || !/^\d{1,20}$/.test(value)) return null;
  const padded = value.padStart(4, '0');
  const us = Number(padded.slice(0, -3));
  return us === 0 ? null : { us, ns: Number(padded.slice(-3)) };
}

const HEX = Array.from({ length: 256 }, (_, byte) => byte.toString(16).padStart(2, '0'));

/** A trace or span id as lower-case hexadecimal of so many bytes; '' where it is absent, all zero or malformed. */
export function idOf(value: unknown, bytes: number): string {
  let id = '';
  if (value instanceof Uint8Array) {
    if (value.length !== bytes) return '';
    for (let i = 0; i < bytes; i++) id += HEX[value[i]];
  } else if (typeof value === 'string' && value.length === bytes * 2 && /^[0-9a-f]+$/i.test(value)) {
    id = value.toLowerCase();
  }
  return /^0*$/.test(id) ? '' : id;
}

export function listOf(value: unknown): Loose[] {
  return Array.isArray(value)
    ? (value as Loose[]).filter((item) => typeof item === 'object' && item !== null)
    : [];
}

/** A signed 64-bit integer as a number; beyond 2^53 the nearest one. */
export const numberFrom = ({ low, high }: Long): number => high * 4_294_967_296 + (low >>> 0);

/** A text as it can be stored; '' for anything else. */
export const stringOf = (value: unknown): string => (typeof value === 'string' ? wellFormed(value) : '');
export const intOf = (value: unknown): number => {
  if (typeof value === 'number') return value;
  if (isLong(value)) return numberFrom(value);
  return typeof value === 'string' && value !== '' && Number.isFinite(Number(value)) ? Number(value) : 0;
};

/** Reads a list of OTLP `KeyValue`. What goes beyond the limits is cut and reported. */
export function attributesOf(list: unknown, limits: ValueLimits, onCut: () => void): Attributes {
  const attributes: Attributes = new Map();
  if (!Array.isArray(list)) return attributes;
  for (const pair of list as Loose[]) {
    if (attributes.size >= limits.attributes) {
      onCut();
      break;
    }
    if (typeof pair === 'object' && pair !== null && typeof pair.key === 'string') {
      attributes.set(wellFormed(pair.key), valueOf(pair.value, limits, limits.depth, onCut, pair.key));
    }
  }
  return attributes;
}

function valueOf(
  value: unknown,
  limits: ValueLimits,
  depth: number,
  onCut: () => void,
  name = ''
): AttributeValue {
  if (typeof value !== 'object' || value === null) return null;
  const any = value as Loose;
  if (has(any, 'stringValue')) {
    const text = stringOf(any.stringValue);
    if (text.length <= limits.valueLength) return text;
    onCut();
    return cutValue(text, limits.valueLength, name);
  }
  if (has(any, 'boolValue')) return any.boolValue === true;
  if (has(any, 'intValue')) return intOf(any.intValue);
  if (has(any, 'doubleValue'))
    return typeof any.doubleValue === 'number' ? any.doubleValue : Number(any.doubleValue);
  if (has(any, 'bytesValue')) return '(bytes)';
  const nested = has(any, 'arrayValue')
    ? any.arrayValue
    : has(any, 'kvlistValue')
      ? any.kvlistValue
      : undefined;
  if (typeof nested !== 'object' || nested === null) return null;
  if (depth <= 0) {
    onCut();
    return null;
  }
  const items = listOf((nested as Loose).values);
  if (has(any, 'arrayValue')) return items.map((item) => valueOf(item, limits, depth - 1, onCut));
  return items.map((pair) => [stringOf(pair.key), valueOf(pair.value, limits, depth - 1, onCut)]);
}

/** True where a field is told: objects of the protobuf library have a value for each that is not. */
export const has = (object: Loose, field: string): boolean =>
  Object.prototype.hasOwnProperty.call(object, field) &&
  object[field] !== null &&
  object[field] !== undefined;

/** Spans and groups of one batch. A batch of millions of empty ones is small as it is sent, and fills any memory as objects. */
export const MAX_PARTS = 200_000;
export const tooManyParts = (): EvidenceError =>
  new EvidenceError(
    'too-many-parts',
    `Expected at most ${MAX_PARTS} spans in one batch, but found more. Send smaller batches.`
  );

/** Objects and lists in one JSON text: each takes many times as much memory as the two characters it is written with. */
const MAX_CONTAINERS = 4_000_000;
const [BRACE, BRACKET] = ['{', '['].map((character) => character.charCodeAt(0));

/** Looks at a JSON text before it is parsed. @throws EvidenceError `too-many-parts` where its objects would fill the memory. */
export function refuseTooManyParts(text: string): void {
  if (text.length < MAX_CONTAINERS) return;
  let containers = 0;
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    if ((code === BRACE || code === BRACKET) && ++containers > MAX_CONTAINERS)
      throw new EvidenceError(
        'too-many-parts',
        `Expected at most ${MAX_CONTAINERS} objects and lists in one JSON text, but found more. Send smaller batches.`
      );
  }
}

/** Parses an OTLP request in JSON that must have a list of this name. @throws EvidenceError `json-damaged`, `not-otlp`. */
export function otlpDocument(text: string, list: 'resourceLogs' | 'resourceMetrics'): Loose {
  refuseTooManyParts(text);
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch (cause) {
    throw new EvidenceError('json-damaged', `The JSON does not parse: ${(cause as Error).message}.`);
  }
  const loose = document as Loose | null;
  if (typeof loose !== 'object' || loose === null || !Array.isArray(loose[list]))
    throw new EvidenceError('not-otlp', `Expected an OTLP object with a list ${list}, but it has none.`);
  return loose;
}
