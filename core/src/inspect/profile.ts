import type { ProfileFinding } from '../findings/profile-finding';
import { findInProfile } from '../findings/profile-findings';
import { functionWeights, heaviestBranch, maxRecursion } from '../profile/functions';
import type { Profile } from '../profile/model';
import { slice, WHOLE } from '../profile/slice';

export interface InspectedProfile {
  valueType: Profile['valueType'];
  unit: Profile['unit'];
  /** How the file calls what weighs, where it measures several things; else absent. */
  measure?: string;
  /** Without idle; every share is of this. */
  total: number;
  idle: number;
  samples: number;
  durationNs: number;
  threads: { name: string; total: number }[];
  functions: {
    name: string;
    file: string;
    line: number;
    column: number;
    package: string;
    kind: string;
    self: number;
    total: number;
    selfShare: number;
    totalShare: number;
    maxRecursion: number;
  }[];
  heaviest: { name: string; file: string; line: number; self: number; total: number; share: number }[];
  findings: Omit<ProfileFinding, 'frame'>[];
}

/**
 * Everything `tromix inspect` says about a profile.
 * @param top most functions listed, by self; 0 for all.
 */
export function inspectProfile(profile: Profile, top: number): InspectedProfile {
  const weights = slice(profile);
  const deepest = maxRecursion(profile.frames, profile);
  const share = (weight: number): number => (weights.sum > 0 ? weight / weights.sum : 0);
  const functions = functionWeights(profile.frames, profile, weights).filter(
    ({ frame }) => profile.frames[frame].kind !== 'idle'
  );
  return {
    valueType: profile.valueType,
    unit: profile.unit,
    ...(profile.measure === undefined ? {} : { measure: profile.measure }),
    total: weights.sum,
    idle: weights.idle,
    samples: profile.sampleNode.length,
    durationNs: profile.durationNs,
    threads: profile.threads.map((name, thread) => ({
      name,
      total: profile.threads.length > 1 ? slice(profile, { ...WHOLE, thread }).sum : weights.sum
    })),
    functions: functions.slice(0, top === 0 ? undefined : top).map(({ frame, self, total }) => {
      const { name, file, line, column, package: from, kind } = profile.frames[frame];
      return {
        name,
        file,
        line,
        column,
        package: from,
        kind,
        self,
        total,
        selfShare: share(self),
        totalShare: share(total),
        maxRecursion: deepest[frame]
      };
    }),
    heaviest: heaviestBranch(profile, weights)
      .slice(1)
      .map((node) => {
        const { name, file, line } = profile.frames[profile.nodeFrame[node]];
        return {
          name,
          file,
          line,
          self: weights.self[node],
          total: weights.total[node],
          share: share(weights.total[node])
        };
      }),
    findings: findInProfile(profile, weights).map(({ frame: _, ...finding }) => finding)
  };
}
