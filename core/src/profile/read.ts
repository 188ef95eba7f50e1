import { EvidenceError, type Warning } from '../formats/evidence-error';
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
  const read = readAs(content, format);
  refuseUncountable(read.profile);
  return read;
}

function readAs(content: Uint8Array, format: ProfileFormat): ReadProfile {
  if (format === 'v8-cpu-profile') return readV8CpuProfile(content);
  const read =
    format === 'v8-heap-profile' ? readV8HeapProfile(content) : readFolded(new TextDecoder().decode(content));
  return { ...read, startTimeUs: 0 };
}

/** Weights that add up to more than a number holds exactly are damage: no share of them would be right. */
function refuseUncountable({ sampleWeight, durationNs, unit }: Profile): void {
  let sum = 0;
  for (let i = 0; i < sampleWeight.length; i++) sum += sampleWeight[i];
  if (sum <= Number.MAX_SAFE_INTEGER && durationNs <= Number.MAX_SAFE_INTEGER) return;
  throw new EvidenceError(
    'weight-out-of-range',
    `Expected weights that add up to less than 2^53 ${unit}, but found ${sum <= Number.MAX_SAFE_INTEGER ? `a length of ${durationNs} ns` : sum}. The file is damaged; record it again.`
  );
}
