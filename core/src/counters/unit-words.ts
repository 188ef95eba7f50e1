import { formatBytes, formatCount, formatDuration, formatShare, nounFor } from '../text/format';

/** A number with three significant digits. */
const plain = (value: number): string =>
  Number.isInteger(value) && Math.abs(value) < 1e6
    ? formatCount(value)
    : String(Number(value.toPrecision(3)));

/** Nanoseconds of one of the units of time that UCUM has. */
const NANOSECONDS: Readonly<Record<string, number>> = {
  s: 1e9,
  ms: 1e6,
  us: 1e3,
  µs: 1e3,
  ns: 1,
  min: 60e9,
  h: 3600e9
};

/**
 * How a value of a metric is written, by its unit (UCUM, as OpenTelemetry has it; what stands in braces is a word).
 * @param isRate it is an amount a second: of time, a share of it
 */
export function metricText(unit: string, isRate: boolean): (value: number) => string {
  const word = /^\{([^}]+)\}$/.exec(unit)?.[1];
  const nanoseconds = NANOSECONDS[unit];
  if (nanoseconds !== undefined)
    return (value) => {
      if (!isRate) return formatDuration(value * nanoseconds);
      // Seconds a second: below one it is a share of the time.
      const perSecond = (value * nanoseconds) / 1e9;
      return perSecond <= 1 ? formatShare(perSecond) : `${plain(perSecond)} s/s`;
    };
  const a = isRate ? '/s' : '';
  if (unit === 'By' || unit === 'bytes') return (value) => `${formatBytes(value)}${a}`;
  if (unit === '%') return (value) => `${plain(value)} %${a}`;
  if (word) return (value) => `${plain(value)} ${nounFor(value, word.replaceAll('_', ' '))}${a}`;
  const suffix = unit === '1' || unit === '' ? '' : ` ${unit}`;
  return (value) => `${plain(value)}${suffix}${a}`;
}
