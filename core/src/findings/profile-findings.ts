import type { Profile } from '../profile/model';
import type { Slice } from '../profile/slice';
import {
  MIN_SAMPLES,
  type FoundInProfile,
  type ProfileContext,
  type ProfileFinding
} from './profile-finding';
import { PROFILE_RULES, type ProfileRule } from './profile-rules';
import { findBy } from './define-rule';
import type { SourceLine } from './source-line';
import { makesErrors } from './thrown-for-control';

/**
 * Everything the rules find in a selection of a profile, costliest first. A function whose cost another finding explains
 * better (making exceptions) is not named again.
 * @param weights of the profile's own stacks, before any shaping.
 * @param sourceLine the source, where it is to be had: a line that throws is recognised by its text.
 */
export function findInProfile(
  profile: Profile,
  weights: Slice,
  sourceLine?: SourceLine
): ProfileFinding<ProfileRule>[] {
  // Folded stacks count their samples by weight; of allocations each sample stands for many bytes, and few tell enough.
  const samples = profile.unit === 'count' ? weights.sum : (profile.recordedSamples ?? weights.samples);
  if (samples < MIN_SAMPLES && profile.unit !== 'bytes') return [];
  if (weights.sum <= 0 || !isOfWork(profile)) return [];
  const found = findBy<ProfileRule, ProfileContext, FoundInProfile>(PROFILE_RULES, {
    profile,
    tree: profile,
    weights,
    sourceLine
  });
  const thrown = found.find(({ rule }) => rule === 'thrown-for-control');
  return found
    .filter((one) => one.rule !== 'hot-function' || !explains(thrown, one))
    .sort((a, b) => b.cost - a.cost);
}

/** The rules know what to do about time and allocation; what is in use, waits, or is there says nothing of what a function does. */
const isOfWork = ({ valueType, unit }: Profile): boolean =>
  valueType !== 'memory' && valueType !== 'waiting' && (valueType !== 'other' || unit === 'nanoseconds');

/** Making exceptions is all a hot function does, or most of what it burns. */
function explains(thrown: ProfileFinding | undefined, hot: ProfileFinding): boolean {
  const [made, burns] = [thrown?.evidence.function, hot.evidence.function];
  if (!made || !burns) return false;
  if (makesErrors({ name: burns.name, kind: 'app' })) return true;
  const same = made.name === burns.name && made.file === burns.file;
  return same && made.share >= 0.5 * Number(hot.figures.share);
}
