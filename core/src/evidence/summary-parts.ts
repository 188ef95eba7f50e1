import * as v from 'valibot';
import type { Warning } from '../formats/evidence-error';

/** Parts that summaries of several kinds have. */
export const Count = v.pipe(v.number(), v.finite(), v.minValue(0));

/** Warnings as they were stored: a code may be one that only an earlier version used. */
export const SummaryWarnings = v.optional(
  v.pipe(
    v.array(v.object({ code: v.string(), message: v.string(), count: Count })),
    v.transform((stored) => stored as Warning[])
  ),
  () => []
);

/** What a rule found, as far as a list shows it. */
export const SummaryFindings = v.array(
  v.object({
    rule: v.string(),
    severity: v.picklist(['high', 'medium', 'low']),
    sentence: v.string()
  })
);
export type SummaryFinding = v.InferOutput<typeof SummaryFindings>[number];

/** Findings a list shows. */
const MOST_FINDINGS = 5;

/** The first findings of a piece of evidence, for its summary. */
export const summaryFindings = (findings: readonly SummaryFinding[]): SummaryFinding[] =>
  findings.slice(0, MOST_FINDINGS).map(({ rule, severity, sentence }) => ({ rule, severity, sentence }));
