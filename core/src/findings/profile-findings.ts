import type { Profile } from '../profile/model';
import type { Slice } from '../profile/slice';
import { deepRecursion } from './deep-recursion';
import { hotFunction } from './hot-function';
import { pausePressure } from './pause-pressure';
import { MIN_SAMPLES, type ProfileFinding, type ProfileFindingRule } from './profile-finding';
import { thrownForControl } from './thrown-for-control';

const RULES: readonly ProfileFindingRule[] = [thrownForControl, hotFunction, deepRecursion, pausePressure];

/**
 * Everything the rules find in a selection of a profile, costliest first. A function whose cost another finding explains
 * better (making exceptions) is not named again.
 * @param weights of the profile's own stacks, before any shaping.
 */
export function findInProfile(profile: Profile, weights: Slice): ProfileFinding[] {
  if (weights.samples < MIN_SAMPLES && profile.unit === 'nanoseconds') return [];
  if (weights.sum <= 0) return [];
  const found = RULES.flatMap((rule) => rule({ profile, tree: profile, weights }));
  const thrown = found.find(({ rule }) => rule === 'thrown-for-control');
  const explained = thrown?.evidence.function?.name;
  return found
    .filter(({ rule, evidence }) => rule !== 'hot-function' || evidence.function?.name !== explained)
    .sort((a, b) => b.cost - a.cost);
}
