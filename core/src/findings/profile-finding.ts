import type { Profile } from '../profile/model';
import type { ShapedTree } from '../profile/shape';
import type { Slice } from '../profile/slice';
import type { Severity } from './finding';
import type { SourceLine } from './throwing-lines';

export type ProfileRule = 'hot-function' | 'deep-recursion' | 'thrown-for-control' | 'pause-pressure';

/** A function as evidence: enough to find it again. */
export interface FunctionEvidence {
  name: string;
  file: string;
  line: number;
  /** Of the weight this finding is about. */
  share: number;
}

/** A conclusion a rule reached about a profile, or a part of one. */
export interface ProfileFinding {
  rule: ProfileRule;
  title: string;
  severity: Severity;
  sentence: string;
  remedy: string;
  figures: Record<string, number | string | null>;
  evidence: { function: FunctionEvidence | null; callers: FunctionEvidence[] };
  /** CPU time of the recording that should go, where that can be said. */
  saving?: { lowNs: number; highNs: number };
  /** Weight this is about, in the profile's unit. */
  cost: number;
  /** Frame to show; −1 for none. */
  frame: number;
}

/** What a rule may look at: one selection of a profile, its stacks as recorded. */
export interface ProfileContext {
  profile: Profile;
  tree: Pick<ShapedTree, 'nodeFrame' | 'nodeParent' | 'nodeOutermost'>;
  weights: Slice;
  /** Source text, where there is any. */
  sourceLine?: SourceLine;
}

export type ProfileFindingRule = (context: ProfileContext) => ProfileFinding[];

/** With fewer samples than this nothing is concluded: at 100 a share of 20 % is known to about 8 points either way (binomial, 95 %). */
export const MIN_SAMPLES = 100;

/** A function as it is written in a sentence. */
export function placeName({ name, file, line }: Pick<FunctionEvidence, 'name' | 'file' | 'line'>): string {
  const short = file.split('/').slice(-2).join('/');
  return short ? `${name} (${short}${line > 0 ? `:${line}` : ''})` : name;
}

export function evidenceOf(profile: Profile, frame: number, share: number): FunctionEvidence {
  const { name, file, line } = profile.frames[frame];
  return { name, file, line, share };
}
