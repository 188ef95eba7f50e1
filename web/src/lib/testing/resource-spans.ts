import type { RawSpan } from '@tromix/core/calls/mask';
import { writeTracesJson } from '@tromix/core/formats/otlp/write';
import { rawSpan, type SpanShape } from '@tromix/core/testing/spans';

/** The spans of one trace of its own, as an exporter tells them. @param startMs moment 0 of the shapes, epoch milliseconds. */
export function spansOfTrace(shapes: readonly SpanShape[], trace: number, startMs: number): RawSpan[] {
  const raw = shapes.map(rawSpan);
  const baseUs = Math.min(...raw.map(({ startUs }) => startUs));
  return raw.map((span) => {
    const { service, host, release, pid } = span.resource;
    const attributes = new Map<string, string | number>([
      ['service.name', service],
      ['host.name', host],
      ['service.version', release],
      ['process.pid', pid]
    ]);
    return {
      ...span,
      traceId: trace.toString(16).padStart(32, '0'),
      startUs: startMs * 1000 + span.startUs - baseUs,
      resource: { ...span.resource, attributes }
    };
  });
}

/** OTLP `resourceSpans` of spans of any processes and traces. */
export function resourceSpansOf(spans: readonly RawSpan[]): object[] {
  const text = writeTracesJson(spans.map((span) => ({ ...span, call: null })));
  return (JSON.parse(text) as { resourceSpans: object[] }).resourceSpans;
}
