import type { Rule } from '../../findings/request-rules';
import { SpanKind, type AttributeValue, type Span } from '../../trace/span';
import { span, type SpanShape } from '../spans';

/** A request as programs make them, with the rules that must speak of it, and those that may. All other rules must be silent. */
export interface RequestShape {
  name: string;
  spans: Span[];
  must: readonly Rule[];
  may?: readonly Rule[];
}

export type Attributes = Record<string, AttributeValue>;
export type Asked = (i: number) => Attributes;

/** Collects the spans of one request. Times in milliseconds. */
export class Request {
  readonly #spans: SpanShape[];
  #next = 0;

  constructor(to: number, attributes: Attributes = {}) {
    this.#spans = [{ id: 'r', name: 'GET /calls', kind: SpanKind.SERVER, from: 0, to, attributes }];
  }

  add(shape: Omit<SpanShape, 'id'> & { id?: string }): string {
    const id = shape.id ?? `s${this.#next++}`;
    this.#spans.push({ parent: 'r', ...shape, id });
    return id;
  }

  call(from: number, to: number, attributes: Attributes, more: Partial<SpanShape> = {}): string {
    return this.add({ name: 'call', kind: SpanKind.CLIENT, from, to, attributes, ...more });
  }

  get spans(): Span[] {
    return this.#spans.map(span);
  }
}

export const sql = (system: string, text: string, more: Attributes = {}): Attributes => ({
  'db.system.name': system,
  'db.query.text': text,
  ...more
});
export const http = (method: string, url: string, more: Attributes = {}): Attributes => ({
  'http.request.method': method,
  'url.full': url,
  'http.response.status_code': 200,
  ...more
});
