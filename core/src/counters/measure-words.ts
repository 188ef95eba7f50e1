import { formatBytes, formatCount, formatDuration, formatShare } from '../text/format';
import { MEASURES, type LineUnit, type MeasureKey } from './strips';

const FORMATS: Record<LineUnit, (value: number) => string> = {
  share: formatShare,
  bytes: formatBytes,
  seconds: (value) => formatDuration(value * 1e9),
  count: (value) => (Number.isInteger(value) ? formatCount(value) : value.toFixed(1)),
  cores: (value) => (value < 0.005 ? '< 0.01' : value.toFixed(2))
};

/** A value of a measure in words. */
export const measureText = (measure: MeasureKey, value: number): string =>
  measure === 'cores'
    ? `${FORMATS.cores(value)} ${Math.abs(value - 1) < 0.005 ? 'core' : 'cores'}`
    : FORMATS[MEASURES[measure].unit](value);
