import * as v from 'valibot';

/** Parts that summaries of several kinds have. */
export const Count = v.pipe(v.number(), v.finite(), v.minValue(0));

export const SummaryWarnings = v.optional(
  v.array(v.object({ code: v.string(), message: v.string(), count: Count })),
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
