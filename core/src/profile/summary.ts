import * as v from 'valibot';
import { Count, SummaryWarnings } from '../evidence/summary-parts';
import type { Warning } from '../formats/evidence-error';
import { VALUE_TYPES, type Profile } from './model';
import { slice } from './slice';

/** What a list of evidence says of a profile. Sums are in the profile's unit, idle apart. */
export const ProfileSummary = v.pipe(
  v.object({
    valueType: v.optional(v.picklist(VALUE_TYPES), 'cpu'),
    unit: v.optional(v.picklist(['nanoseconds', 'bytes', 'count']), 'nanoseconds'),
    samples: v.optional(Count, 0),
    sum: v.optional(Count),
    /** The sum as the first release called it. */
    busyNs: v.optional(Count, 0),
    idle: v.optional(Count, 0),
    functions: v.optional(Count, 0),
    /** How the file calls what weighs; '' where it measures one thing only. */
    measure: v.optional(v.string(), ''),
    /** How long was recorded, where its samples have no times; 0 where that is not said. */
    recordedNs: v.optional(Count, 0),
    warnings: SummaryWarnings
  }),
  v.transform(({ busyNs, sum = busyNs, ...rest }) => ({ ...rest, sum }))
);
export type ProfileSummary = v.InferOutput<typeof ProfileSummary>;

export function summariseProfile(profile: Profile, warnings: Warning[]): ProfileSummary {
  const { sum, idle } = slice(profile);
  return {
    valueType: profile.valueType,
    unit: profile.unit,
    samples: profile.sampleNode.length,
    sum,
    idle,
    functions: profile.frames.length,
    measure: profile.measure ?? '',
    recordedNs: profile.recordedNs ?? 0,
    warnings
  };
}
