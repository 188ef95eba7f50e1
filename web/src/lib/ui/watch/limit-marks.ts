import type { Condition } from '@tromix/core/watch/condition';
import { figureOf } from '@tromix/core/watch/figures';

/** A limit as a chart draws it. */
export interface LimitMark {
  value: number;
  name: string;
  /** Where it comes on; else where it goes off. */
  isOn: boolean;
}

/** The limits of a condition as marks of a chart; none where they are no numbers. */
export function limitMarks({ watched, limit }: Condition): LimitMark[] {
  if (limit.by !== 'number') return [];
  const { text } = figureOf(watched);
  const on = { value: limit.on, name: `on ${text(limit.on)}`, isOn: true };
  return limit.off === limit.on
    ? [on]
    : [on, { value: limit.off, name: `off ${text(limit.off)}`, isOn: false }];
}
