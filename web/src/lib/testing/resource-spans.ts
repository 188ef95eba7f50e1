import type { RawSpan } from '@tromix/core/calls/mask';
import { rawSpan, type SpanShape } from '@tromix/core/testing/spans';
import type { AttributeValue } from '@tromix/core/trace/span';

/** Spans of tests as an exporter would send them. */
const valueOf = (value: AttributeValue): object =>
  typeof value === 'number' ? { doubleValue: value } : { stringValue: String(value) };
const attributesOf = (attributes: Iterable<[string, AttributeValue]>): object[] =>
  Array.from(attributes, ([key, value]) => ({ key, value: valueOf(value) }));

/** The spans of one trace of its own. @param startMs moment 0 of the shapes, epoch milliseconds. */
export function spansOfTrace(shapes: readonly SpanShape[], trace: number, startMs: number): RawSpan[] {
  const raw = shapes.map(rawSpan);
  const baseUs = Math.min(...raw.map(({ startUs }) => startUs));
  return raw.map((span) => ({
    ...span,
    traceId: trace.toString(16).padStart(32, '0'),
    startUs: startMs * 1000 + span.startUs - baseUs
  }));
}

/** OTLP `resourceSpans` of spans of any processes and traces. */
export function resourceSpansOf(spans: readonly RawSpan[]): object[] {
  const byProcess = new Map<string, RawSpan[]>();
  for (const span of spans)
    byProcess.set(span.resource.key, [...(byProcess.get(span.resource.key) ?? []), span]);
  return [...byProcess.values()].map((of) => {
    const { service, host, release, pid } = of[0].resource;
    return {
      resource: {
        attributes: attributesOf([
          ['service.name', service],
          ['host.name', host],
          ['service.version', release],
          ['process.pid', pid]
        ])
      },
      scopeSpans: [{ spans: of.map(otlpOf) }]
    };
  });
}

function otlpOf(span: RawSpan): object {
  const nanos = (ns: number): string => String(BigInt(span.startUs) * 1000n + BigInt(span.startNs + ns));
  return {
    traceId: span.traceId,
    spanId: span.spanId,
    ...(span.parentId ? { parentSpanId: span.parentId } : {}),
    name: span.name,
    kind: span.kind,
    startTimeUnixNano: nanos(0),
    endTimeUnixNano: nanos(span.durationNs),
    status: span.status ? { code: span.status } : {},
    attributes: attributesOf(span.attributes)
  };
}
