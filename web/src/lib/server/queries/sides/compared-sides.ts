import { compareFigures, type ComparedFigures } from '@tromix/core/compare/comparison';
import { eachSide, type Sides } from '@tromix/core/sides';
import type { Leavable } from '$lib/compared-scopes';
import { scopeWindow, type Scope, type TimeWindow } from '$lib/scope';
import { memoryIn } from '../hosts/process-memory';
import type { Rail } from '../rail';
import { servedBy, type TakingPart } from '../hosts/taking-part';
import { storedSide, type StoredSide } from './stored-side';

/** Two sides as a page gets them: everything but what is drawn from the samples, which the page works out itself. */
export interface ComparedSides {
  compared: ComparedFigures;
  windows: Sides<TimeWindow>;
  /** In order of time; none of a side of which only sums are kept. */
  durationsNs: Sides<Float64Array>;
  startsS: Sides<Float32Array>;
  kept: Sides<StoredSide['kept']>;
  /** Memory of the processes of each side's service and host over its time, as on the time rail. */
  memory: Sides<Rail['memory']>;
  /** The services and hosts that served the requests of each side. */
  served: Sides<TakingPart[]>;
}

/** Of each stretch of so many minutes the most is shown. */
const MEMORY_MINUTES = 1;

/** Holds two scopes against each other. */
export async function comparedSides(
  scopes: Sides<Scope>,
  leave: readonly Leavable[],
  nowMs: number
): Promise<ComparedSides> {
  const memoryOf = (scope: Scope): Promise<Rail['memory']> =>
    memoryIn(scope, scopeWindow(scope, nowMs), MEMORY_MINUTES);
  const servedOf = (scope: Scope): Promise<TakingPart[]> => servedBy(scope, scopeWindow(scope, nowMs), nowMs);
  const [before, after, memoryBefore, memoryAfter, servedBefore, servedAfter] = await Promise.all([
    storedSide(scopes.before, leave, nowMs),
    storedSide(scopes.after, leave, nowMs),
    memoryOf(scopes.before),
    memoryOf(scopes.after),
    servedOf(scopes.before),
    servedOf(scopes.after)
  ]);
  const sides = { before, after };
  const compared = compareFigures(sides);
  // Of one time, told apart by something else: that they overlap is meant.
  if (before.window.fromUs === after.window.fromUs && before.window.toUs === after.window.toUs)
    compared.notes = compared.notes.filter(({ code }) => code !== 'overlap');
  return {
    compared,
    windows: eachSide(sides, ({ window }) => window),
    durationsNs: eachSide(sides, ({ durationsNs }) => durationsNs),
    startsS: eachSide(sides, ({ startsS }) => startsS),
    kept: eachSide(sides, ({ kept }) => kept),
    memory: { before: memoryBefore, after: memoryAfter },
    served: { before: servedBefore, after: servedAfter }
  };
}
