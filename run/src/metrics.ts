import { registerInstrumentations } from '@opentelemetry/instrumentation';
import { OTLPMetricExporter } from '@opentelemetry/exporter-metrics-otlp-proto';
import { RuntimeNodeInstrumentation } from '@opentelemetry/instrumentation-runtime-node';
import type { Resource } from '@opentelemetry/resources';
import { MeterProvider, PeriodicExportingMetricReader } from '@opentelemetry/sdk-metrics';

/** Unless the standard environment says otherwise. */
const SEND_EVERY_MS = Number(process.env.OTEL_METRIC_EXPORT_INTERVAL) || 10_000;

/** Sends what the runtime says of itself: event loop, heap, collector (semantic conventions for Node.js and V8). */
export function startMetrics(resource: Resource): void {
  const reader = new PeriodicExportingMetricReader({
    exporter: new OTLPMetricExporter(),
    exportIntervalMillis: SEND_EVERY_MS,
    exportTimeoutMillis: SEND_EVERY_MS / 2
  });
  registerInstrumentations({
    meterProvider: new MeterProvider({ resource, readers: [reader] }),
    instrumentations: [new RuntimeNodeInstrumentation()]
  });
}
