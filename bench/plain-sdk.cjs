// The plain OpenTelemetry SDK with the instrumentations that `tromix run` has for this service, and nothing else: what its cost is held against.
const { registerInstrumentations } = require('@opentelemetry/instrumentation');
const { OTLPTraceExporter } = require('@opentelemetry/exporter-trace-otlp-proto');
const { ExpressInstrumentation } = require('@opentelemetry/instrumentation-express');
const { HttpInstrumentation } = require('@opentelemetry/instrumentation-http');
const { PgInstrumentation } = require('@opentelemetry/instrumentation-pg');
const { UndiciInstrumentation } = require('@opentelemetry/instrumentation-undici');
const { BatchSpanProcessor } = require('@opentelemetry/sdk-trace-base');
const { NodeTracerProvider } = require('@opentelemetry/sdk-trace-node');
const { register } = require('node:module');
const { pathToFileURL } = require('node:url');

if (!process.env.PLAIN_SDK_IN_LOADER) {
  process.env.PLAIN_SDK_IN_LOADER = '1';
  register('@opentelemetry/instrumentation/hook.mjs', pathToFileURL(__filename));
  delete process.env.PLAIN_SDK_IN_LOADER;
  const provider = new NodeTracerProvider({
    spanProcessors: [new BatchSpanProcessor(new OTLPTraceExporter(), { scheduledDelayMillis: 1000 })]
  });
  provider.register();
  registerInstrumentations({
    tracerProvider: provider,
    instrumentations: [
      new HttpInstrumentation(),
      new ExpressInstrumentation(),
      new PgInstrumentation(),
      new UndiciInstrumentation()
    ]
  });
}
