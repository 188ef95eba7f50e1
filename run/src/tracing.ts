import { isMainThread } from 'node:worker_threads';
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
import { nameFastifyRoutes } from './fastify-routes';
import { Files } from './files';
import { instrumentations, WITH_PARAMETERS } from './instrumentations';
import { startMetrics } from './metrics';
import { ParametersHashed } from './parameters';

/** Spans wait at most so long: the first finding is to be there within a minute. */
const SEND_EVERY_MS = 1000;

/** Starts the official OpenTelemetry SDK, set by the standard environment (`OTEL_*`), and names the line of every call. */
export function startTracing(): void {
  const exporting = new BatchSpanProcessor(new OTLPTraceExporter(), { scheduledDelayMillis: SEND_EVERY_MS });
  const resource = defaultResource().merge(
    detectResources({ detectors: [envDetector, hostDetector, processDetector] })
  );
  const lines = new CallLines(__filename);
  const hashed = WITH_PARAMETERS ? [] : [new ParametersHashed()];
  const provider = new NodeTracerProvider({ resource, spanProcessors: [lines, ...hashed, exporting] });
  provider.register();
  registerInstrumentations({ tracerProvider: provider, instrumentations: instrumentations() });
  nameFastifyRoutes();
  new Files(() => lines.now()).watch();
  if (isMainThread) startMetrics(resource);
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
