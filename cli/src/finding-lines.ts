import type { Severity } from '@tromix/core/findings/finding';

/** Findings as lines, under a heading. */
export function* findingLines(
  findings: readonly { severity: Severity; rule: string; sentence: string }[]
): Generator<string> {
  yield '';
  yield '  findings';
  for (const { severity, rule, sentence } of findings)
    yield `  ${severity.padStart(8)}  ${rule}: ${sentence}`;
}
