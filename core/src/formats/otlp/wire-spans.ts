import type { Reader } from 'protobufjs/light.js';
import { cutValue } from '../../text/well-formed';
import type { Attributes, AttributeValue, SpanEvent } from '../../trace/span';
import type { SpanFields } from './span-fields';
import { TextPool } from './text-pool';
import { BYTES, endOf, FIXED64, readerOf, tag, VARINT } from '../wire';
import { MAX_PARTS, momentFrom, numberFrom, tooManyParts, type Moment, type ValueLimits } from './values';

/**
 * Reads spans straight from the bytes of an OTLP message, with no object for each message in between: field numbers and
 * wire types of opentelemetry-proto v1 (trace.proto, common.proto, resource.proto); unknown fields are skipped.
 */

const REQUEST_RESOURCE_SPANS = tag(1, BYTES);
const GROUP_RESOURCE = tag(1, BYTES);
const GROUP_SCOPE_SPANS = tag(2, BYTES);
const SCOPE_SPANS = tag(2, BYTES);
const RESOURCE_ATTRIBUTES = tag(1, BYTES);
const PAIR_KEY = tag(1, BYTES);
const PAIR_VALUE = tag(2, BYTES);

/** What is stated for each group of spans from one process. */
export interface SpanGroup {
  resource: Attributes;
  spans: SpanFields[];
}

/** Texts repeat from batch to batch: the pool outlives one message. */
const texts = new TextPool();

/** The part of an OTLP span list that is read into; `cut` is called whenever a limit took something away. */
export class WireSpans {
  readonly #reader: Reader;
  readonly #limits: ValueLimits;
  readonly #maxEvents: number;
  readonly #cut: () => void;
  /** Spans and groups so far. */
  #parts = 0;

  constructor(bytes: Uint8Array, limits: ValueLimits, maxEvents: number, cut: () => void) {
    this.#reader = readerOf(bytes);
    this.#limits = limits;
    this.#maxEvents = maxEvents;
    this.#cut = cut;
  }

  /** The groups of an `ExportTraceServiceRequest`. @throws RangeError or Error where the bytes are damaged. */
  groups(): SpanGroup[] {
    const groups: SpanGroup[] = [];
    this.#fields(this.#reader.len, (found) => {
      if (found !== REQUEST_RESOURCE_SPANS) return false;
      if (++this.#parts > MAX_PARTS) throw tooManyParts();
      groups.push(this.#group());
      return true;
    });
    return groups;
  }

  #group(): SpanGroup {
    const group: SpanGroup = { resource: new Map(), spans: [] };
    this.#message((found) => {
      if (found === GROUP_RESOURCE) this.#pairsOf(RESOURCE_ATTRIBUTES, group.resource);
      else if (found === GROUP_SCOPE_SPANS) this.#scope(group.spans);
      else return false;
      return true;
    });
    return group;
  }

  #scope(spans: SpanFields[]): void {
    this.#message((found) => {
      if (found !== SCOPE_SPANS) return false;
      if (++this.#parts > MAX_PARTS) throw tooManyParts();
      spans.push(this.#span());
      return true;
    });
  }

  #span(): SpanFields {
    const reader = this.#reader;
    const end = endOf(this.#reader);
    const span: SpanFields = {
      traceId: '',
      spanId: '',
      parentId: '',
      name: '',
      kind: 0,
      begin: null,
      finish: null,
      status: 0,
      statusMessage: '',
      attributes: new Map(),
      events: []
    };
    while (reader.pos < end) {
      const found = reader.uint32();
      if (found === tag(1, BYTES)) span.traceId = this.#id(16);
      else if (found === tag(2, BYTES)) span.spanId = this.#id(8);
      else if (found === tag(4, BYTES)) span.parentId = this.#id(8);
      else if (found === tag(5, BYTES)) span.name = texts.read(reader);
      else if (found === tag(6, VARINT)) span.kind = reader.int32();
      else if (found === tag(7, FIXED64)) span.begin = this.#moment();
      else if (found === tag(8, FIXED64)) span.finish = this.#moment();
      else if (found === tag(9, BYTES)) this.#pair(span.attributes, this.#limits.depth);
      else if (found === tag(11, BYTES)) this.#event(span.events);
      else if (found === tag(15, BYTES)) this.#status(span);
      else reader.skipType(found & 7);
    }
    return span;
  }

  #status(span: SpanFields): void {
    this.#message((found) => {
      if (found === tag(2, BYTES)) span.statusMessage = texts.read(this.#reader);
      else if (found === tag(3, VARINT)) span.status = this.#reader.int32();
      else return false;
      return true;
    });
  }

  #event(events: SpanFields['events']): void {
    if (events.length >= this.#maxEvents) {
      this.#cut();
      this.#reader.pos = endOf(this.#reader);
      return;
    }
    const event: Pick<SpanEvent, 'name' | 'attributes'> & { at: Moment | null } = {
      name: '',
      at: null,
      attributes: new Map()
    };
    this.#message((found) => {
      if (found === tag(1, FIXED64)) event.at = this.#moment();
      else if (found === tag(2, BYTES)) event.name = texts.read(this.#reader);
      else if (found === tag(3, BYTES)) this.#pair(event.attributes, this.#limits.depth);
      else return false;
      return true;
    });
    events.push(event);
  }

  #pairsOf(field: number, into: Attributes): void {
    this.#message((found) => {
      if (found !== field) return false;
      this.#pair(into, this.#limits.depth);
      return true;
    });
  }

  /** A `KeyValue`. */
  #pair(into: Attributes, depth: number): void {
    const reader = this.#reader;
    const end = endOf(this.#reader);
    if (into.size >= this.#limits.attributes) {
      this.#cut();
      reader.pos = end;
      return;
    }
    let key = '';
    let value: AttributeValue = null;
    while (reader.pos < end) {
      const found = reader.uint32();
      if (found === PAIR_KEY) key = texts.read(reader);
      else if (found === PAIR_VALUE) value = this.#value(depth, key);
      else reader.skipType(found & 7);
    }
    into.set(key, value);
  }

  /** An `AnyValue`: of its alternatives the last one counts. */
  #value(depth: number, name = ''): AttributeValue {
    const reader = this.#reader;
    const end = endOf(this.#reader);
    let value: AttributeValue = null;
    while (reader.pos < end) {
      const found = reader.uint32();
      if (found === tag(1, BYTES)) value = this.#text(name);
      else if (found === tag(2, VARINT)) value = reader.bool();
      else if (found === tag(3, VARINT)) value = numberFrom(reader.int64());
      else if (found === tag(4, FIXED64)) value = reader.double();
      else if (found === tag(5, BYTES)) value = this.#nested(depth, () => this.#value(depth - 1));
      else if (found === tag(6, BYTES)) value = this.#nested(depth, () => this.#namedValue(depth - 1));
      else if (found === tag(7, BYTES)) {
        reader.pos = endOf(this.#reader);
        value = '(bytes)';
      } else reader.skipType(found & 7);
    }
    return value;
  }

  #text(name: string): string {
    const text = texts.read(this.#reader);
    if (text.length <= this.#limits.valueLength) return text;
    this.#cut();
    return cutValue(text, this.#limits.valueLength, name);
  }

  /** An `ArrayValue` or a `KeyValueList`: both hold their items as field 1. */
  #nested(depth: number, item: () => AttributeValue): AttributeValue {
    if (depth <= 0) {
      this.#cut();
      this.#reader.pos = endOf(this.#reader);
      return null;
    }
    const items: AttributeValue[] = [];
    this.#message((found) => {
      if (found !== tag(1, BYTES)) return false;
      items.push(item());
      return true;
    });
    return items;
  }

  #namedValue(depth: number): AttributeValue {
    const one: Attributes = new Map();
    this.#pair(one, depth);
    const [pair] = one;
    return pair ? [pair[0], pair[1]] : ['', null];
  }

  /** An id as lower-case hexadecimal; '' where it has another length or is all zero. */
  #id(bytes: number): string {
    const reader = this.#reader;
    const end = endOf(this.#reader);
    let id = '';
    let any = 0;
    if (end - reader.pos === bytes) {
      const { buf } = reader;
      for (let i = reader.pos; i < end; i += 2) {
        id += HEX_PAIRS[(buf[i] << 8) | buf[i + 1]];
        any |= buf[i] | buf[i + 1];
      }
    }
    reader.pos = end;
    return any === 0 ? '' : id;
  }

  #moment(): Moment | null {
    const low = this.#reader.fixed32();
    return momentFrom(low, this.#reader.fixed32());
  }

  #message(read: (tag: number) => boolean): void {
    this.#fields(endOf(this.#reader), read);
  }

  /** Reads fields up to an end; those the callback does not know are skipped. */
  #fields(end: number, read: (tag: number) => boolean): void {
    const reader = this.#reader;
    while (reader.pos < end) {
      const found = reader.uint32();
      if (!read(found)) reader.skipType(found & 7);
    }
  }
}

const HEX_PAIRS = Array.from({ length: 65_536 }, (_, pair) => pair.toString(16).padStart(4, '0'));
