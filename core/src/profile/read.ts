import type { Warning } from '../formats/evidence-error';
import { readFolded } from './folded';
import type { Profile } from './model';
import { readV8CpuProfile } from './v8-cpu';
import { readV8HeapProfile } from './v8-heap-profile';

export const PROFILE_FORMATS = ['v8-cpu-profile', 'v8-heap-profile', 'folded-stacks'] as const;
export type ProfileFormat = (typeof PROFILE_FORMATS)[number];

export interface ReadProfile {
  profile: Profile;
  /** The engine's clock at the start, microseconds, whose zero is not the epoch; 0 where the format has none. */
  startTimeUs: number;
  warnings: Warning[];
}

/**
 * Reads a profile of any format.
 * @param content the file's bytes, UTF-8, not gzip. @throws EvidenceError where it cannot be read.
 */
export function readProfile(content: Uint8Array, format: ProfileFormat): ReadProfile {
  if (format === 'v8-cpu-profile') return readV8CpuProfile(content);
  const read =
    format === 'v8-heap-profile' ? readV8HeapProfile(content) : readFolded(new TextDecoder().decode(content));
  return { ...read, startTimeUs: 0 };
}
