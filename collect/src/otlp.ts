import { randomHex } from './hex';

// The little of OTLP/JSON that is written here.

export type Value = string | number | undefined | null;
/** What happened at a moment, milliseconds from the start of the navigation. */
export interface SentEvent {
  name: string;
  atMs: number;
  attributes?: Record<string, Value>;
}

/** Attributes that have a value. */
export const attributesOf = (of: Record<string, Value>): object[] =>
  Object.entries(of)
    .filter(([, value]) => value !== undefined && value !== null && value !== '')
    .map(([key, value]) => ({
      key,
      value: typeof value === 'number' ? { doubleValue: value } : { stringValue: value }
    }));

/** A span of a load, as JSON text: so its length is known. Times are milliseconds from the start of the navigation. */
export function spanText(
  of: { traceId: string; parentId: string; originMs: number },
  span: {
    id?: string;
    name: string;
    kind: 1 | 3;
    startMs: number;
    endMs: number;
    attributes: Record<string, Value>;
    events?: readonly SentEvent[];
  }
): string {
  // Microseconds are what a browser tells; more digits than a number holds are added as text.
  const nano = (ms: number): string => `${Math.round((of.originMs + ms) * 1000)}000`;
  return JSON.stringify({
    traceId: of.traceId,
    spanId: span.id ?? randomHex(8),
    ...(of.parentId && { parentSpanId: of.parentId }),
    name: span.name,
    kind: span.kind,
    startTimeUnixNano: nano(span.startMs),
    endTimeUnixNano: nano(Math.max(span.startMs, span.endMs)),
    attributes: attributesOf(span.attributes),
    events: span.events?.map(({ name, atMs, attributes = {} }) => ({
      name,
      timeUnixNano: nano(atMs),
      attributes: attributesOf(attributes)
    }))
  });
}

/** A request for export, of spans that are JSON texts. */
export const exportText = (resource: Record<string, Value>, spans: readonly string[]): string =>
  `{"resourceSpans":[{"resource":{"attributes":${JSON.stringify(attributesOf(resource))}},"scopeSpans":[{"spans":[${spans.join(',')}]}]}]}`;
