import { histogramQuantile, merged, type Distribution } from '@tromix/core/counters/histograms';
import type { StoredSeries } from '../../counters';

/** How long was waited for a connection, by OpenTelemetry's conventions, newer names first. */
export const POOL_WAITS = ['db.client.connection.wait_time', 'db.client.connections.wait_time'];

/** The median of what was waited, seconds; null where it is not told. */
export function medianWait(series: readonly StoredSeries[], parts: readonly Distribution[]): number | null {
  const whole = parts.reduce<Distribution | null>(
    (sum, one) => (sum ? (merged(sum, one) ?? sum) : one),
    null
  );
  const median = whole && histogramQuantile(whole, 0.5);
  return median ? inSeconds(series, median.value) : null;
}

/** The mean of what was waited, seconds; null where it is not told. */
export function meanWait(series: readonly StoredSeries[], parts: readonly Distribution[]): number | null {
  const told = parts.filter(({ sum }) => Number.isFinite(sum));
  const count = told.reduce((all, one) => all + one.count, 0);
  return count > 0 ? inSeconds(series, told.reduce((all, { sum }) => all + sum, 0) / count) : null;
}

/** Older conventions have it in milliseconds. */
const inSeconds = ([{ unit }]: readonly StoredSeries[], value: number): number =>
  unit === 'ms' ? value / 1000 : value;
