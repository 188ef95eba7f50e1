import * as v from 'valibot';

/** What is recorded of a process while a load run goes on. */
const Recording = v.object({
  /** Address of its inspector. */
  address: v.pipe(v.string(), v.maxLength(200)),
  what: v.picklist(['cpu', 'heap', 'threads'], 'takes cpu, heap or threads')
});

/** A load run that is to be made: the plan is read by the core, which words what is wrong with it. */
export const RunOrder = v.object({
  plan: v.unknown(),
  /** Made by who asks, so that asking twice does not start two. */
  key: v.optional(v.string()),
  record: v.optional(v.pipe(v.array(Recording), v.maxLength(20)), () => [])
});
export type RunRecording = v.InferOutput<typeof Recording>;
