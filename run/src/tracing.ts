import { registerInstrumentations } from '@opentelemetry/instrumentation';
import { OTLPTraceExporter } from '@opentelemetry/exporter-trace-otlp-proto';
import {
  defaultResource,
  detectResources,
  envDetector,
  hostDetector,
  processDetector
} from '@opentelemetry/resources';
import { BatchSpanProcessor } from '@opentelemetry/sdk-trace-base';
import { NodeTracerProvider } from '@opentelemetry/sdk-trace-node';
import { CallLines } from './call-lines';
import { instrumentations } from './instrumentations';

/** Spans wait at most so long: the first finding is to be there within a minute. */
const SEND_EVERY_MS = 1000;

/** Starts the official OpenTelemetry SDK, set by the standard environment (`OTEL_*`), and names the line of every call. */
export function startTracing(): void {
  const exporting = new BatchSpanProcessor(new OTLPTraceExporter(), { scheduledDelayMillis: SEND_EVERY_MS });
  const provider = new NodeTracerProvider({
    resource: defaultResource().merge(
      detectResources({ detectors: [envDetector, hostDetector, processDetector] })
    ),
    spanProcessors: [new CallLines(__filename), exporting]
  });
  provider.register();
  registerInstrumentations({ tracerProvider: provider, instrumentations: instrumentations() });
  sendBeforeTheEnd(provider);
}

/** What was not sent yet when a program ends by itself goes out first, as far as somebody takes it at once. */
function sendBeforeTheEnd(provider: NodeTracerProvider): void {
  let sent = false;
  process.on('beforeExit', () => {
    if (sent) return;
    sent = true;
    void provider.forceFlush().catch(() => {});
  });
}
