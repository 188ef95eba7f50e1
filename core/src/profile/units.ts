import { formatBytes, formatCount, formatDuration } from '../text/format';
import type { Profile } from './model';

type Measured = Pick<Profile, 'unit' | 'valueType' | 'measure'>;

/** A weight in the profile's own unit. */
export function formatWeight(weight: number, { unit }: Measured): string {
  if (unit === 'nanoseconds') return formatDuration(weight);
  return unit === 'bytes' ? formatBytes(weight) : formatCount(weight);
}

/** What a profile counts: samples, or stacks where the file added alike ones up. */
export const sampleName = ({ unit, measure }: Measured): string =>
  unit === 'count' || measure ? 'stack' : 'sample';

/** What the weights are of where they are counted: a file's own name serves where nothing better is known. */
const COUNTED: Record<string, string> = {
  samples: 'samples',
  goroutine: 'goroutines',
  threadcreate: 'threads',
  contentions: 'waits'
};

/** What the weights are of: "of the CPU". */
export function wholeName({ valueType, unit, measure = '' }: Measured): string {
  const counts = unit === 'count';
  if (valueType === 'allocation') return counts ? 'allocated objects' : 'allocated bytes';
  if (valueType === 'memory') return counts ? 'objects in use' : 'memory in use';
  if (counts) return COUNTED[measure] ?? (measure || 'weight');
  if (valueType === 'waiting') return 'waiting';
  if (unit === 'bytes') return 'bytes';
  return valueType === 'cpu' ? 'CPU' : 'time';
}
