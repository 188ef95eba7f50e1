import * as v from 'valibot';
import { Condition } from './condition';
import { conditionWords } from './words';

/** How much it matters, the least first. */
export const SEVERITIES = ['notice', 'warning', 'urgent'] as const;
export type Severity = (typeof SEVERITIES)[number];

const short = v.pipe(v.string(), v.trim(), v.maxLength(200, 'expected at most 200 characters'));

/** What is recorded when a watch comes on. */
export const WatchRecording = v.strictObject({
  kind: v.picklist(['cpu', 'allocation', 'heap', 'threads'], 'expected cpu, allocation, heap or threads'),
  seconds: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(1),
    v.maxValue(600, 'expected 10 minutes (600 s) at most')
  ),
  /** Of the process whose inspector answers there; '' for the one of the service that is watched. */
  address: v.optional(v.pipe(v.string(), v.maxLength(200)), '')
});
export type WatchRecording = v.InferOutput<typeof WatchRecording>;

/** What happens when a watch comes on, beside that it is told. */
export const WatchActions = v.strictObject({
  /** Opens a case with what is known of that moment. */
  case: v.optional(v.boolean(), false),
  record: v.optional(
    v.pipe(v.array(WatchRecording), v.maxLength(3, 'expected at most 3 recordings')),
    () => []
  )
});

/** A watch, as it is saved. */
export const Watch = v.strictObject({
  /** '' for the sentence of its condition. */
  name: v.optional(short, ''),
  condition: Condition,
  severity: v.optional(v.picklist(SEVERITIES, `expected one of ${SEVERITIES.join(', ')}`), 'warning'),
  /** Who sees to it; '' for nobody in particular. */
  owner: v.optional(short, ''),
  /** Whether it is told, too, that there is no data. */
  tellsNoData: v.optional(v.boolean(), false),
  actions: v.optional(WatchActions, () => ({ case: false, record: [] }))
});
export type Watch = v.InferOutput<typeof Watch>;

export const watchName = ({ name, condition }: Pick<Watch, 'name' | 'condition'>): string =>
  name || conditionWords(condition);
