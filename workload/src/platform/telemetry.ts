import { createRequire } from 'node:module';
import { context, SpanStatusCode, trace, type Attributes, type Span } from '@opentelemetry/api';
import { OTLPTraceExporter as JsonExporter } from '@opentelemetry/exporter-trace-otlp-http';
import { OTLPTraceExporter as ProtobufExporter } from '@opentelemetry/exporter-trace-otlp-proto';
import { registerInstrumentations } from '@opentelemetry/instrumentation';
import { HttpInstrumentation } from '@opentelemetry/instrumentation-http';
import { BatchSpanProcessor } from '@opentelemetry/sdk-trace-base';
import { NodeTracerProvider } from '@opentelemetry/sdk-trace-node';
import { notePhases } from '@tromix/run/phases';
import { originAttributes } from './origin';
import { processResource } from './process-resource';
import type { Settings } from './settings';

const EXPORT_EVERY_MS = 1000;

/** Starts the OpenTelemetry SDK; every HTTP call in and out is traced from then on. Returns how to flush and stop it. */
export function startTelemetry(settings: Settings): () => Promise<void> {
  const url = `${settings.otlpEndpoint}/v1/traces`;
  const exporter =
    settings.otlpEncoding === 'json' ? new JsonExporter({ url }) : new ProtobufExporter({ url });
  const processor = new BatchSpanProcessor(exporter, {
    scheduledDelayMillis: EXPORT_EVERY_MS,
    maxQueueSize: 20_000,
    maxExportBatchSize: 2000
  });
  const provider = new NodeTracerProvider({
    resource: processResource(settings),
    spanProcessors: [processor]
  });
  provider.register();
  registerInstrumentations({
    instrumentations: [
      new HttpInstrumentation({
        startOutgoingSpanHook: originAttributes,
        // As `tromix run` does.
        requestHook: notePhases,
        disableIncomingRequestInstrumentation: false
      })
    ]
  });
  // The instrumentation patches the module when it is required; imports of it share the patched object.
  createRequire(import.meta.url)('node:http');
  return () => provider.shutdown();
}

const tracer = trace.getTracer('quillhaven');

/** Runs work inside a span of its own. */
export async function inSpan<T>(
  name: string,
  attributes: Attributes,
  work: (span: Span) => Promise<T> | T,
  kind: 0 | 2 = 0
): Promise<T> {
  return tracer.startActiveSpan(name, { attributes, kind }, async (span) => {
    try {
      return await work(span);
    } catch (error) {
      span.recordException(error as Error);
      span.setStatus({ code: SpanStatusCode.ERROR, message: (error as Error).message });
      throw error;
    } finally {
      span.end();
    }
  });
}

/** Names the route on the span of the request being served. */
export function nameRoute(method: string, route: string): void {
  const span = trace.getSpan(context.active());
  span?.setAttribute('http.route', route);
  span?.updateName(`${method} ${route}`);
}

/** The span at hand as W3C Trace Context writes it; '' where there is none. */
export function traceParent(): string {
  const at = trace.getSpan(context.active())?.spanContext();
  return at ? `00-${at.traceId}-${at.spanId}-01` : '';
}
