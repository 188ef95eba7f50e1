/**
 * The two sides of a comparison: what something is held against, and what it is now. Every change is after − before,
 * every ratio after ÷ before.
 */
export interface Sides<T> {
  before: T;
  after: T;
}

export type Side = keyof Sides<unknown>;

/** The same of both sides, the earlier first. */
export const eachSide = <T, U>(sides: Sides<T>, of: (side: T, which: Side) => U): Sides<U> => ({
  before: of(sides.before, 'before'),
  after: of(sides.after, 'after')
});

/** By how much a figure changed, after − before, in the figure’s unit. */
export const changeOf = <T>({ before, after }: Sides<T>, figure: (side: T) => number): number =>
  figure(after) - figure(before);

/** The greater of both sides. */
export const greaterOf = <T>({ before, after }: Sides<T>, figure: (side: T) => number): number =>
  Math.max(figure(before), figure(after));
