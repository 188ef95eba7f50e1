import type { Measure, Told } from './measures';

/** OTLP `AggregationTemporality`: cumulative. */
const CUMULATIVE = 2;
const nanos = (ms: number): string => `${Math.round(ms)}000000`;
const attribute = ([key, value]: [string, string | number]): object => ({
  key,
  value: typeof value === 'number' ? { intValue: String(value) } : { stringValue: value }
});

/** An OTLP `ExportMetricsServiceRequest` in JSON. @param atMs when it was read, epoch milliseconds */
export function metricsRequest(told: readonly Told[], atMs: number): object {
  return {
    resourceMetrics: told.map(({ resource, sinceMs, measures }) => ({
      resource: { attributes: Object.entries(resource).map(attribute) },
      scopeMetrics: [{ scope: { name: 'tromix host' }, metrics: metricsOf(measures, sinceMs, atMs) }]
    }))
  };
}

function metricsOf(measures: readonly Measure[], sinceMs: number, atMs: number): object[] {
  const byName = new Map<string, Measure[]>();
  for (const measure of measures) {
    if (!Number.isFinite(measure.value)) continue;
    const known = byName.get(measure.name);
    if (known) known.push(measure);
    else byName.set(measure.name, [measure]);
  }
  return [...byName.values()].map((of) => {
    const [{ name, unit, grows }] = of;
    const dataPoints = of.map(({ value, attributes }) => ({
      attributes: Object.entries(attributes).map(attribute),
      ...(grows && sinceMs > 0 && { startTimeUnixNano: nanos(sinceMs) }),
      timeUnixNano: nanos(atMs),
      asDouble: value
    }));
    return grows
      ? { name, unit, sum: { aggregationTemporality: CUMULATIVE, isMonotonic: true, dataPoints } }
      : { name, unit, gauge: { dataPoints } };
  });
}
