import { formatBytes, formatCount, formatDuration } from '../text/format';
import type { Profile } from './model';

type Measured = Pick<Profile, 'unit' | 'valueType'>;

/** A weight in the profile's own unit. */
export function formatWeight(weight: number, { unit }: Measured): string {
  if (unit === 'nanoseconds') return formatDuration(weight);
  return unit === 'bytes' ? formatBytes(weight) : formatCount(weight);
}

/** What a profile counts: folded stacks say neither how often nor by what they were taken. */
export const sampleName = ({ unit }: Measured): string => (unit === 'count' ? 'stack' : 'sample');

/** What the weights are of: "of the CPU". */
export function wholeName({ valueType, unit }: Measured): string {
  if (valueType === 'allocation') return 'allocated bytes';
  if (unit === 'count') return 'weight';
  return valueType === 'wall' ? 'time' : 'CPU';
}
