import { EvidenceError, type Warning } from '../formats/evidence-error';
import { readFolded } from './folded';
import { readJfrJson } from './jfr-json';
import type { Profile } from './model';
import { readOtlpProfile } from './otlp/read';
import { readProtobufProfile } from './protobuf/read';
import { readTraceEvents } from './trace-events';
import { readV8CpuProfile } from './v8-cpu';
import { readV8HeapProfile } from './v8-heap-profile';

export const PROFILE_FORMATS = [
  'v8-cpu-profile',
  'v8-heap-profile',
  'protobuf-profile',
  'trace-events',
  'jfr-json',
  'otlp-profiles',
  'folded-stacks'
] as const;
export type ProfileFormat = (typeof PROFILE_FORMATS)[number];

export interface ReadProfile {
  profile: Profile;
  /** The engine's clock at the start, microseconds, whose zero is not the epoch; 0 where the format has none. */
  startTimeUs: number;
  /** When it began, epoch microseconds, where the file says so; else null. */
  startedAtUs: number | null;
  /** What its samples measure, of which one weighs: more than one can be chosen from. */
  measures: string[];
  warnings: Warning[];
}

/**
 * Reads a profile of any format.
 * @param content the file's bytes, not gzip. @param measure what weighs, of several things that were measured; '' for the file's default.
 * @throws EvidenceError where it cannot be read.
 */
export function readProfile(content: Uint8Array, format: ProfileFormat, measure = ''): ReadProfile {
  const read = { startTimeUs: 0, startedAtUs: null, measures: [], ...readAs(content, format, measure) };
  refuseUncountable(read.profile);
  return read;
}

function readAs(
  content: Uint8Array,
  format: ProfileFormat,
  measure: string
): Pick<ReadProfile, 'profile' | 'warnings'> & Partial<ReadProfile> {
  switch (format) {
    case 'v8-cpu-profile':
      return readV8CpuProfile(content);
    case 'v8-heap-profile':
      return readV8HeapProfile(content);
    case 'protobuf-profile':
      return readProtobufProfile(content, measure);
    case 'trace-events':
      return readTraceEvents(content);
    case 'jfr-json':
      return readJfrJson(content, measure);
    case 'otlp-profiles':
      return readOtlpProfile(content, measure);
    case 'folded-stacks':
      return readFolded(new TextDecoder().decode(content), measure);
  }
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
