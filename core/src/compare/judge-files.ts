import type { InspectedHeap } from '../inspect/heap';
import type { InspectedProfile } from '../inspect/profile';
import { shareInterval } from '../stats/share-interval';
import type { Budget } from './budget';
import { notTold, stateOf, type Judgement, type Measured } from './judgement';

type FunctionBudget = Budget['functions'][number];
type HeapBudget = Budget['heaps'][number];

/**
 * Judges what a function takes of a profile, with everything it calls. Samples are drawn, so that a share has an interval as any other.
 * @param profiles those of side B; the greatest share of them counts.
 */
export function judgeFunction(
  { name, file, share }: FunctionBudget,
  profiles: readonly InspectedProfile[],
  strict = false
): Judgement {
  const measured = profiles
    .map((profile) => shareOf(profile, name, file))
    .reduce<Measured>(
      (most, one) => (most.measured === null || one.measured! > most.measured ? one : most),
      notTold('There is no profile of side B.')
    );
  return {
    of: file ? `${name} (${file})` : name,
    what: 'share',
    limit: share,
    ...measured,
    state: stateOf(share, measured, strict)
  };
}

function shareOf({ functions, samples, unit }: InspectedProfile, name: string, file = ''): Measured {
  // Several functions may bear the name: none of them may take more.
  const share = functions
    .filter((one) => one.name === name && one.file.endsWith(file))
    .reduce((most, { totalShare }) => Math.max(most, totalShare), 0);
  // Folded stacks do not say how often they were taken: there is nothing to make an interval of.
  const within = unit === 'count' ? null : shareInterval(Math.round(share * samples), samples);
  return { measured: share, within, reason: '' };
}

/** The heap dumps of both sides, the last of each. */
export interface JudgedHeaps {
  before: InspectedHeap | null;
  after: InspectedHeap | null;
}

/** Judges by how many bytes what is alive has grown, or the objects of one class. Bytes are counted: there is no chance in them. */
export function judgeHeap({ className, growthBytes }: HeapBudget, { before, after }: JudgedHeaps): Judgement {
  const measured: Measured =
    before && after
      ? { measured: bytesOf(after, className) - bytesOf(before, className), within: null, reason: '' }
      : notTold(`There is no heap dump of side ${before ? 'B' : 'A'}.`);
  return {
    of: className ?? 'live bytes',
    what: 'growthBytes',
    limit: growthBytes,
    ...measured,
    state: stateOf(growthBytes, measured, false)
  };
}

const bytesOf = ({ liveBytes, classes }: InspectedHeap, className: string | undefined): number =>
  className === undefined ? liveBytes : (classes.find(({ name }) => name === className)?.shallowBytes ?? 0);
