import { formatCount } from '../text/format';
import type { Profile } from '../profile/model';
import type { ShapedTree } from '../profile/shape';
import type { Slice } from '../profile/slice';
import type { Conclusion } from './finding';
import type { SourceLine } from './source-line';

/** A function as evidence: enough to find it again. */
export interface FunctionEvidence {
  name: string;
  file: string;
  line: number;
  /** Of the weight this finding is about. */
  share: number;
}

/** What a rule found in a profile, or a part of one. The cost is in the profile's unit. */
export interface FoundInProfile extends Conclusion<{
  function: FunctionEvidence | null;
  callers: FunctionEvidence[];
}> {
  /** CPU time of the recording that should go, where that can be said. */
  saving?: { lowNs: number; highNs: number };
  /** Frame to show; −1 for none. */
  frame: number;
}
export type ProfileFinding<Name extends string = string> = FoundInProfile & { rule: Name };

/** What a rule may look at: one selection of a profile, its stacks as recorded. */
export interface ProfileContext {
  profile: Profile;
  tree: Pick<ShapedTree, 'nodeFrame' | 'nodeParent' | 'nodeOutermost'>;
  weights: Slice;
  /** Source text, where there is any. */
  sourceLine?: SourceLine;
}

/** With fewer samples than this nothing is concluded: at 100 a share of 20 % is known to about 8 points either way (binomial, 95 %). */
export const MIN_SAMPLES = 100;
/** The threshold that all rules about profiles share. */
export const ENOUGH_SAMPLES = {
  name: 'samples',
  value: `${formatCount(MIN_SAMPLES)} or more in the selection`,
  why: 'With fewer, a share is not known well enough to conclude from (at 100 samples a fifth is known to about 8 points either way).'
};

/** A function as it is written in a sentence. */
export function placeName({ name, file, line }: Pick<FunctionEvidence, 'name' | 'file' | 'line'>): string {
  const short = file.split('/').slice(-2).join('/');
  return short ? `${name} (${short}${line > 0 ? `:${line}` : ''})` : name;
}

export function evidenceOf(profile: Profile, frame: number, share: number): FunctionEvidence {
  const { name, file, line } = profile.frames[frame];
  return { name, file, line, share };
}
