import { momentOf } from '../../formats/otlp/values';
import type { Resource } from '../../trace/span';
import { decodeOtlpProfiles, type OtlpProfiles, type ToldProfile } from './document';
import { ProfilesData } from './schema';
import { withUsed } from './used';

/** One profile of a message as a message of its own. */
export interface SplitProfile {
  resource: Resource;
  /** Epoch microseconds; null where it is not told. */
  startedAtUs: number | null;
  /** In protobuf, as `encodeOtlpProfiles` writes it. */
  content: Uint8Array;
}

/**
 * The profiles of one message, each with what it uses of the dictionary that they share.
 * @throws EvidenceError as `decodeOtlpProfiles`.
 */
export function* splitOtlpProfiles(message: Uint8Array): Generator<SplitProfile, void, undefined> {
  const { profiles, dictionary } = decodeOtlpProfiles(message);
  for (const { resource, told, profile } of profiles) {
    const used = withUsed(profile, dictionary);
    yield {
      resource,
      startedAtUs: momentOf(profile.timeUnixNano)?.us ?? null,
      content: encodeOtlpProfiles({
        profiles: [{ resource, told, profile: used.profile }],
        dictionary: used.dictionary
      })
    };
  }
}

/** Writes profiles in protobuf, with what is read of them and nothing else. */
export function encodeOtlpProfiles({ profiles, dictionary }: OtlpProfiles): Uint8Array {
  const resourceProfiles = profiles.map(({ told, profile }: ToldProfile) => ({
    resource: told ?? {},
    scopeProfiles: [{ profiles: [profile] }]
  }));
  return ProfilesData.encode(ProfilesData.fromObject({ resourceProfiles, dictionary })).finish();
}
