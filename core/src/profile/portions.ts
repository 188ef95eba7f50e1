import type { Profile } from './model';

/** A thread, or a value of a label, and its weight in the whole profile, without idle. */
export interface Portion {
  name: string;
  weight: number;
}

/** The threads of a profile, in its own order. */
export function threadPortions(profile: Profile): Portion[] {
  const { threads, sampleThread } = profile;
  const weights = weightsBy(profile, sampleThread, threads.length);
  return threads.map((name, i) => ({ name, weight: weights[i] }));
}

/** The labels of a profile with their values, in its own order. */
export const labelPortions = (profile: Profile): { key: string; values: Portion[] }[] =>
  (profile.labels ?? []).map(({ key, values, sampleValue }) => {
    const weights = weightsBy(profile, sampleValue, values.length);
    return { key, values: values.map((name, i) => ({ name, weight: weights[i] })) };
  });

/** @param of by sample: the part it belongs to, −1 for none; null where all belong to the first. */
function weightsBy(
  { sampleNode, sampleWeight, nodeFrame, frames }: Profile,
  of: ArrayLike<number> | null,
  parts: number
): Float64Array {
  const isIdle = Uint8Array.from(frames, ({ kind }) => (kind === 'idle' ? 1 : 0));
  const weights = new Float64Array(parts);
  for (let i = 0; i < sampleNode.length; i++) {
    const part = of ? of[i] : 0;
    if (part >= 0 && isIdle[nodeFrame[sampleNode[i]]] === 0) weights[part] += sampleWeight[i];
  }
  return weights;
}
