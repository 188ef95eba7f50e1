import { metrics } from '@opentelemetry/api';
import { OTLPMetricExporter } from '@opentelemetry/exporter-metrics-otlp-proto';
import { registerInstrumentations } from '@opentelemetry/instrumentation';
import { RuntimeNodeInstrumentation } from '@opentelemetry/instrumentation-runtime-node';
import { MeterProvider, PeriodicExportingMetricReader } from '@opentelemetry/sdk-metrics';
import { processResource } from './process-resource';
import type { Settings } from './settings';

const EXPORT_EVERY_MS = 10_000;

/** Sends what the runtime says of itself: event loop, heap, collector. Returns how to flush and stop it. */
export function startMetrics(settings: Settings): () => Promise<void> {
  const exporter = new OTLPMetricExporter({ url: `${settings.otlpEndpoint}/v1/metrics` });
  const reader = new PeriodicExportingMetricReader({
    exporter,
    exportIntervalMillis: EXPORT_EVERY_MS,
    exportTimeoutMillis: EXPORT_EVERY_MS / 2
  });
  const meterProvider = new MeterProvider({ resource: processResource(settings), readers: [reader] });
  metrics.setGlobalMeterProvider(meterProvider);
  registerInstrumentations({ meterProvider, instrumentations: [new RuntimeNodeInstrumentation()] });
  return () => meterProvider.shutdown();
}
