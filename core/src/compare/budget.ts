import * as v from 'valibot';
import { REQUEST_RULES } from '../findings/request-rules';
import { wrongPart } from '../text/wrong-part';

const aboveZero = v.pipe(v.number(), v.finite(), v.gtValue(0, 'expected more than 0'));
const share = v.pipe(
  v.number(),
  v.minValue(0, 'expected a share from 0 to 1'),
  v.maxValue(1, 'expected a share from 0 to 1')
);
const name = v.pipe(v.string(), v.minLength(1, 'expected a name'), v.maxLength(1000));

const Rule = v.pipe(
  v.string(),
  v.check(
    (rule) => REQUEST_RULES.some((known) => known.rule === rule),
    'expected a rule about requests, such as query-per-row'
  )
);

/** What an endpoint may cost. */
const EndpointBudget = v.strictObject({
  service: name,
  endpoint: name,
  medianMs: v.optional(aboveZero),
  p95Ms: v.optional(aboveZero),
  /** By which share the median may be slower than on side A. */
  slowerBy: v.optional(v.pipe(v.number(), v.minValue(0), v.finite())),
  callsPerRequest: v.optional(v.pipe(v.number(), v.minValue(0), v.finite())),
  failedShare: v.optional(share),
  /** Rules whose findings no request may have. */
  forbidden: v.optional(v.array(Rule))
});
/** Which share of a profile a function may take, with everything it calls. */
const FunctionBudget = v.strictObject({
  name,
  /** The end of its file’s path, where several functions bear the name. */
  file: v.optional(name),
  share
});
/** By how much the live bytes may grow between two dumps, or those of one class. */
const HeapBudget = v.strictObject({
  className: v.optional(name),
  growthBytes: v.pipe(v.number(), v.minValue(0))
});

/** A budget file, version 1. Unknown names are refused: a typo would be a budget that is never broken. */
export const BudgetFile = v.strictObject({
  budget: v.literal(1, 'expected version 1'),
  endpoints: v.optional(v.array(EndpointBudget), () => []),
  functions: v.optional(v.array(FunctionBudget), () => []),
  heaps: v.optional(v.array(HeapBudget), () => [])
});
export type Budget = v.InferOutput<typeof BudgetFile>;
export type EndpointBudget = v.InferOutput<typeof EndpointBudget>;

/** Reads a budget, and says which part of it is wrong: `endpoints 2 medianMs: expected more than 0`. */
export function readBudget(text: string): { ok: true; budget: Budget } | { ok: false; message: string } {
  let given: unknown;
  try {
    given = JSON.parse(text);
  } catch (cause) {
    return { ok: false, message: `It is no JSON: ${(cause as Error).message}` };
  }
  const read = v.safeParse(BudgetFile, given);
  return read.success ? { ok: true, budget: read.output } : { ok: false, message: wrongPart(read.issues[0]) };
}
