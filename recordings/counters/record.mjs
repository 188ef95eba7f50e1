/**
 * Records what the official OpenTelemetry SDK for Node.js sends of metrics: instruments of every kind whose values are known, twice each in
 * either temporality, and what the packages for hosts and for the runtime measure of this machine.
 * Run: npm install && node --expose-gc record.mjs
 */
import { writeFileSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { HostMetrics } from '@opentelemetry/host-metrics';
import { RuntimeNodeInstrumentation } from '@opentelemetry/instrumentation-runtime-node';
import { JsonMetricsSerializer, ProtobufMetricsSerializer } from '@opentelemetry/otlp-transformer';
import { resourceFromAttributes } from '@opentelemetry/resources';
import {
  AggregationTemporality,
  AggregationType,
  MeterProvider,
  MetricReader
} from '@opentelemetry/sdk-metrics';

class Reader extends MetricReader {
  onForceFlush() {
    return Promise.resolve();
  }
  onShutdown() {
    return Promise.resolve();
  }
}

const resource = (service) =>
  resourceFromAttributes({
    'service.name': service,
    'service.version': '7.3',
    'host.name': 'quay-3',
    'process.pid': 4711
  });
const file = (name) => new URL(name, import.meta.url);

async function save(reader, name, asJson) {
  const { resourceMetrics } = await reader.collect();
  writeFileSync(file(`${name}.pb`), ProtobufMetricsSerializer.serializeRequest(resourceMetrics));
  if (asJson) writeFileSync(file(`${name}.json`), JsonMetricsSerializer.serializeRequest(resourceMetrics));
}

for (const [name, temporality] of [
  ['cumulative', AggregationTemporality.CUMULATIVE],
  ['delta', AggregationTemporality.DELTA]
]) {
  const reader = new Reader({ aggregationTemporalitySelector: () => temporality });
  const aggregation = { type: AggregationType.EXPONENTIAL_HISTOGRAM, options: { maxSize: 20 } };
  const provider = new MeterProvider({
    resource: resource('tides'),
    readers: [reader],
    views: [{ instrumentName: 'tides.depth', aggregation }]
  });
  const meter = provider.getMeter('tides');
  const calls = meter.createCounter('tides.calls', { unit: '{call}' });
  const open = meter.createUpDownCounter('tides.open', { unit: '{request}' });
  const level = meter.createGauge('tides.level', { unit: 'm' });
  const took = meter.createHistogram('tides.took', {
    unit: 'ms',
    advice: { explicitBucketBoundaries: [5, 10, 25, 50, 100] }
  });
  const depth = meter.createHistogram('tides.depth', { unit: 'm' });
  const count = (upTo) => {
    for (let i = 1; i <= upTo; i++) {
      calls.add(i, { gauge: i % 2 ? 'north' : 'south' });
      open.add(i % 3 === 0 ? -1 : 1);
      took.record(i, { gauge: 'north' });
      depth.record(i / 4);
      depth.record(0);
    }
    level.record(upTo + 0.25);
  };
  count(60);
  await save(reader, `${name}-1`, true);
  await wait(40);
  count(120);
  await save(reader, `${name}-2`, true);
  await provider.shutdown();
}

{
  const reader = new Reader();
  new HostMetrics({
    meterProvider: new MeterProvider({ resource: resource('host'), readers: [reader] })
  }).start();
  await reader.collect();
  await wait(1500);
  await save(reader, 'host-metrics', false);
}

{
  const reader = new Reader();
  const runtime = new RuntimeNodeInstrumentation({ monitoringPrecision: 200 });
  runtime.setMeterProvider(new MeterProvider({ resource: resource('berths'), readers: [reader] }));
  const held = Array.from({ length: 400_000 }, (_, i) => ({ i }));
  await wait(300);
  globalThis.gc?.();
  await reader.collect();
  for (let i = 0; i < 400_000; i++) held.push({ i });
  await wait(400);
  await save(reader, 'node-runtime', false);
}
process.exit(0);
