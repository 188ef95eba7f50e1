import { functionWeights } from './functions';
import type { Profile } from './model';
import { slice } from './slice';

/** So many functions a profile is found by at most. */
const MOST = 2000;

/** Functions of the application and its dependencies by which a profile is found, the heaviest first. */
export function namesInProfile(profile: Profile): string[] {
  const heaviest = functionWeights(profile.frames, profile, slice(profile)).toSorted(
    (a, b) => b.total - a.total
  );
  const names = new Set<string>();
  for (const { frame } of heaviest) {
    const { name, kind } = profile.frames[frame];
    if (name !== '' && (kind === 'app' || kind === 'dependency')) names.add(name);
    if (names.size >= MOST) break;
  }
  return [...names];
}
