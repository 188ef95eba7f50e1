import * as v from 'valibot';
import type { KeepRule } from '@tromix/core/trace/keep-rules';

const text = v.pipe(v.string(), v.maxLength(500));
const needed = v.pipe(text, v.nonEmpty('must not be empty'));
const count = (least: number, most: number) =>
  v.pipe(v.number(), v.integer('takes an integer'), v.minValue(least), v.maxValue(most));

/** Keep rules as a page sends them. */
export const KeepRules: v.GenericSchema<unknown, KeepRule[]> = v.pipe(
  v.array(
    v.variant('when', [
      v.object({ when: v.literal('slower'), ms: count(0, 3_600_000) }),
      v.object({ when: v.literal('failed') }),
      v.object({ when: v.literal('endpoint'), service: text, endpoint: needed }),
      v.object({ when: v.literal('host'), host: needed }),
      v.object({ when: v.literal('attribute'), name: needed, value: text }),
      v.object({ when: v.literal('one-in'), n: count(1, 1_000_000) }),
      v.object({ when: v.literal('each-endpoint'), perHour: count(1, 10_000) })
    ])
  ),
  v.maxLength(50)
);
