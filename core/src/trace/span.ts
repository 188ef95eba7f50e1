import type { CallIdentity } from '../calls/call';

export type AttributeValue = string | number | boolean | null | AttributeValue[];
/** A Map, because a key such as `__proto__` is legal data. */
export type Attributes = Map<string, AttributeValue>;

/** OTLP `Span.SpanKind` (opentelemetry-proto v1, trace.proto). */
export const SpanKind = {
  UNSPECIFIED: 0,
  INTERNAL: 1,
  SERVER: 2,
  CLIENT: 3,
  PRODUCER: 4,
  CONSUMER: 5
} as const;
/** OTLP `Status.StatusCode`. */
export const StatusCode = { UNSET: 0, OK: 1, ERROR: 2 } as const;

/** The process that sent a span, from its OTLP resource. */
export interface Resource {
  service: string;
  host: string;
  release: string;
  /** Operating system process id; 0 where the resource does not say. */
  pid: number;
  attributes: Attributes;
  /** Equal for equal processes. */
  key: string;
}

export interface SpanEvent {
  name: string;
  /** Nanoseconds from the span's start; may be negative where the sender's clock says so. */
  offsetNs: number;
  attributes: Attributes;
}

export interface Span {
  /** 32 lower-case hexadecimal digits. */
  traceId: string;
  /** 16 lower-case hexadecimal digits. */
  spanId: string;
  /** Empty where there is no parent. */
  parentId: string;
  name: string;
  kind: number;
  /** Start: whole microseconds since the epoch, and the nanoseconds (0 to 999) beyond them. */
  startUs: number;
  startNs: number;
  durationNs: number;
  status: number;
  statusMessage: string;
  attributes: Attributes;
  events: SpanEvent[];
  resource: Resource;
  /** What the span calls, with its literals already masked; null for a span that is no call. */
  call: CallIdentity | null;
}

/** The first attribute of these names that says something, as text; '' where none is. */
export function textOf(attributes: Attributes, ...names: string[]): string {
  for (const name of names) {
    const value = attributes.get(name);
    if (typeof value === 'string' && value !== '') return value;
    if (typeof value === 'number' || typeof value === 'boolean') return String(value);
  }
  return '';
}

/** The first attribute of these names that is a number or reads as one; undefined where none is. */
export function numberOf(attributes: Attributes, ...names: string[]): number | undefined {
  for (const name of names) {
    const value = attributes.get(name);
    if (typeof value === 'number') return value;
    if (typeof value === 'string' && value.trim() !== '' && Number.isFinite(Number(value)))
      return Number(value);
  }
  return undefined;
}
