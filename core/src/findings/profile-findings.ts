import type { Profile } from '../profile/model';
import type { Slice } from '../profile/slice';
import { deepRecursion } from './deep-recursion';
import { hotFunction } from './hot-function';
import { pausePressure } from './pause-pressure';
import { MIN_SAMPLES, type ProfileFinding, type ProfileFindingRule } from './profile-finding';
import type { SourceLine } from './throwing-lines';
import { makesErrors, thrownForControl } from './thrown-for-control';

const RULES: readonly ProfileFindingRule[] = [thrownForControl, hotFunction, deepRecursion, pausePressure];

/**
 * Everything the rules find in a selection of a profile, costliest first. A function whose cost another finding explains
 * better (making exceptions) is not named again.
 * @param weights of the profile's own stacks, before any shaping.
 * @param sourceLine the source, where it is to be had: a line that throws is told by its text.
 */
export function findInProfile(profile: Profile, weights: Slice, sourceLine?: SourceLine): ProfileFinding[] {
  if (weights.samples < MIN_SAMPLES && profile.unit === 'nanoseconds') return [];
  if (weights.sum <= 0) return [];
  const found = RULES.flatMap((rule) => rule({ profile, tree: profile, weights, sourceLine }));
  const thrown = found.find(({ rule }) => rule === 'thrown-for-control');
  return found
    .filter((one) => one.rule !== 'hot-function' || !explains(thrown, one))
    .sort((a, b) => b.cost - a.cost);
}

/** Making exceptions is all a hot function does, or most of what it burns. */
function explains(thrown: ProfileFinding | undefined, hot: ProfileFinding): boolean {
  const [made, burns] = [thrown?.evidence.function, hot.evidence.function];
  if (!made || !burns) return false;
  if (makesErrors({ name: burns.name, kind: 'app' })) return true;
  const same = made.name === burns.name && made.file === burns.file;
  return same && made.share >= 0.5 * Number(hot.figures.share);
}
