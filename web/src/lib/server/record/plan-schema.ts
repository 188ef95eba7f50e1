import * as v from 'valibot';

const order = {
  address: v.pipe(v.string(), v.maxLength(200)),
  kind: v.picklist(['cpu', 'allocation', 'heap', 'threads'], 'takes cpu, allocation, heap or threads'),
  seconds: v.pipe(
    v.number('takes a number'),
    v.integer('takes an integer'),
    v.minValue(1, 'takes 1 second at least'),
    v.maxValue(600, 'takes 10 minutes (600 s) at most: a recording always ends by itself')
  ),
  interval: v.pipe(
    v.number('takes a number'),
    v.integer('takes an integer'),
    v.minValue(50, 'takes 50 at least: finer sampling slows the process down'),
    v.maxValue(10_000_000, 'takes 10 000 000 at most')
  ),
  /** Counts every call of every function: beside CPU samples, or alone. */
  calls: v.optional(v.picklist(['beside', 'alone', 'no'], 'takes beside, alone or no'), 'no')
};

/** What is to be recorded, where, and for how long. */
export const NewRecording = v.object({
  ...order,
  /** Takes a heap dump also where it stands still for long, or may not fit into memory. */
  sure: v.optional(v.boolean('takes true or false'), false)
});

/** A recording that is made again and again, or for as long as a watch is on. */
export const Plan = v.object({
  ...order,
  /** How many of its profiles are kept; older ones are removed. */
  keep: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(1, 'takes 1 at least'),
    v.maxValue(500, 'takes 500 at most')
  ),
  when: v.variant('by', [
    v.object({
      by: v.literal('time'),
      everyMinutes: v.pipe(
        v.number(),
        v.minValue(1, 'takes 1 minute at least'),
        v.maxValue(1440, 'takes a day at most')
      )
    }),
    v.object({
      by: v.literal('always'),
      everyMinutes: v.pipe(
        v.number(),
        v.integer(),
        v.minValue(1, 'takes 1 minute at least'),
        v.maxValue(60, 'takes an hour at most')
      ),
      /** What it may cost, parts of a core. */
      budget: v.pipe(
        v.number(),
        v.minValue(0.0001, 'takes 0.01 % of a core at least'),
        v.maxValue(0.5, 'takes half a core at most')
      ),
      /** Records one process of this service after another, one host at a time; '' for the one at the address alone. */
      inTurn: v.optional(v.pipe(v.string(), v.maxLength(300)), '')
    }),
    v.object({
      by: v.literal('watch'),
      watch: v.pipe(v.string(), v.minLength(1, 'names a watch'), v.maxLength(100))
    })
  ])
});
export type RecordingPlan = v.InferOutput<typeof Plan> & {
  /** What became of it: that it was thinned, or ended. */
  note?: string;
  ended?: boolean;
};
/** A plan that records all the time, in slices. */
export type SlicePlan = RecordingPlan & { when: { by: 'always' } };
