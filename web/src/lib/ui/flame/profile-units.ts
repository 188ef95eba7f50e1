import { formatBytes, formatCount, formatDuration } from '@tromix/core/text/format';
import type { OpenedProfile } from '$lib/workers/profile.worker';

type Kind = Pick<OpenedProfile, 'unit' | 'valueType'>;

/** A weight in the profile's own unit. */
export function formatWeight(weight: number, { unit }: Kind): string {
  if (unit === 'nanoseconds') return formatDuration(weight);
  return unit === 'bytes' ? formatBytes(weight) : formatCount(weight);
}

/** What the weights are of: "of the CPU". */
export function wholeName({ valueType, unit }: Kind): string {
  if (valueType === 'allocation') return 'allocated bytes';
  if (unit === 'count') return 'weight';
  return valueType === 'wall' ? 'time' : 'CPU';
}
