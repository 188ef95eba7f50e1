import * as v from 'valibot';
import { Count, summaryFindings, SummaryFindings, SummaryWarnings } from '../evidence/summary-parts';
import { findInLoad } from '../findings/load-findings';
import { figuresOf } from './figures';
import { isOpen } from './plan';
import { ENDS, type LoadRun } from './run-file';

/** What a list of evidence says of a load run. Times in nanoseconds. */
export const LoadSummary = v.object({
  key: v.string(),
  name: v.string(),
  end: v.picklist(ENDS),
  samples: Count,
  failed: Count,
  medianNs: v.nullable(Count),
  p95Ns: v.nullable(Count),
  /** Answers per second. */
  throughput: Count,
  users: Count,
  /** Visits per second of an open model; 0 for users. */
  rate: Count,
  steps: Count,
  findings: v.optional(SummaryFindings, () => []),
  warnings: SummaryWarnings
});
export type LoadSummary = v.InferOutput<typeof LoadSummary>;

export function summariseRun({ key, name, end, endUs, plan, samples }: LoadRun): LoadSummary {
  const { medianUs, p95Us, failed } = figuresOf(samples, isOpen(plan));
  const known = (us: number): number | null => (Number.isFinite(us) ? Math.round(us * 1000) : null);
  return {
    key,
    name,
    end,
    samples: samples.length,
    failed,
    medianNs: known(medianUs),
    p95Ns: known(p95Us),
    throughput: endUs > 0 ? (samples.length / endUs) * 1e6 : 0,
    users: plan.users,
    rate: plan.rate,
    steps: plan.steps.length,
    findings: summaryFindings(findInLoad({ plan, samples, endUs })),
    warnings: []
  };
}
