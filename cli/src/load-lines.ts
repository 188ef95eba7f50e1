import type { LoadFigures } from '@tromix/core/load/figures';
import { stepName } from '@tromix/core/load/plan';
import { END_WORDS } from '@tromix/core/load/run-file';
import { FAULT_WORDS } from '@tromix/core/load/samples';
import type { InspectedRun } from '@tromix/core/inspect/load';
import {
  formatBytes,
  formatCount,
  formatDuration,
  formatFigure,
  formatShare,
  plural
} from '@tromix/core/text/format';
import { findingLines } from './finding-lines';

const us = (value: number): string => formatDuration(value * 1000);
const COLUMNS: [string, (figures: LoadFigures) => string][] = [
  ['samples', ({ samples }) => formatCount(samples)],
  ['failed', ({ failed }) => formatCount(failed)],
  ['mean', ({ meanUs }) => us(meanUs)],
  ['std. dev.', ({ deviationUs }) => us(deviationUs)],
  ['min', ({ minUs }) => us(minUs)],
  ['median', ({ medianUs }) => us(medianUs)],
  ['p95', ({ p95Us }) => us(p95Us)],
  ['p99', ({ p99Us }) => us(p99Us)],
  ['max', ({ maxUs }) => us(maxUs)],
  ['bytes', ({ bytes }) => formatBytes(bytes)]
];
const WIDTH = 10;
const row = (cells: readonly string[], name: string): string =>
  `  ${cells.map((cell) => cell.padStart(WIDTH)).join('')}  ${name}`;

/** A load run as lines for a terminal. */
export function* loadLines(run: InspectedRun): Generator<string> {
  const { figures, steps, plan, throughput, endUs, end, faults, lateness, law, open, fromSending } = run;
  yield `  ${plural(figures.samples, 'request')} in ${us(endUs)}, ${formatFigure(throughput)} per second; the run ${END_WORDS[end]}`;
  yield '';
  yield row(
    COLUMNS.map(([name]) => name),
    'step'
  );
  const cells = (of: LoadFigures): string[] => COLUMNS.map(([, text]) => text(of));
  for (const [i, step] of steps.entries()) yield row(cells(step), stepName(plan.steps[i]));
  if (steps.length > 1) yield row(cells(figures), 'all');
  yield '';
  for (const { fault, count } of faults)
    if (fault !== '')
      yield `  ${plural(count, 'request')} failed (${formatShare(count / figures.samples)}): ${FAULT_WORDS[fault]}`;
  if (open && fromSending)
    yield `  times count from when each was to be sent; from the moment of sending: median ${us(fromSending.medianUs)}, p99 ${us(fromSending.p99Us)}`;
  yield `  under way on average ${law.underWay.toFixed(2)} = ${formatFigure(law.throughput)} per second × ${formatDuration(law.timeSeconds * 1e9)}; driver late by ${us(lateness.p99Us)} at p99`;
  if (run.findings.length > 0) yield* findingLines(run.findings);
}
