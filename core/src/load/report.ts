import { findInLoad } from '../findings/load-findings';
import type { LoadFinding } from '../findings/load-finding';
import { figuresOf, figuresOfTimes, latenessOf, type Lateness, type LoadFigures } from './figures';
import { littlesLaw, type LittlesLaw } from './littles-law';
import { binsOver, type LoadBin } from './over-time';
import { isOpen } from './plan';
import { pointsOf, type LoadPoint } from './points';
import type { LoadRun } from './run-file';
import { FAULTS, type Fault } from './samples';

/** All that is said of a run, under way or over. Times in microseconds. */
export interface LoadReport {
  /** How long it ran. */
  endUs: number;
  open: boolean;
  figures: LoadFigures;
  steps: LoadFigures[];
  /** Answers per second. */
  throughput: number;
  /** Failures by their reason, the most frequent first. */
  faults: { fault: Fault; count: number }[];
  /** How many came back with which status, by number; 0 for no answer. */
  statuses: { status: number; count: number }[];
  lateness: Lateness;
  /** In an open model the median and p99 from the moment of sending: what a closed model would say of the same requests. */
  fromSending: { medianUs: number; p99Us: number } | null;
  law: LittlesLaw;
  bins: { seconds: number; bins: LoadBin[] };
  points: LoadPoint[];
  findings: LoadFinding[];
}

/** Says everything of a run, for the view, the command line and exports alike. */
export function reportOf({ plan, samples, endUs }: Pick<LoadRun, 'plan' | 'samples' | 'endUs'>): LoadReport {
  const open = isOpen(plan);
  const sending = open ? figuresOfTimes(samples.column('durationUs')) : null;
  return {
    endUs,
    open,
    figures: figuresOf(samples, open),
    steps: plan.steps.map((_, step) => figuresOf(samples, open, step)),
    throughput: endUs > 0 ? (samples.length / endUs) * 1e6 : 0,
    faults: countsOf(samples.column('fault'))
      .filter(([fault]) => fault > 0)
      .map(([fault, count]) => ({ fault: FAULTS[fault], count })),
    statuses: countsOf(samples.column('status'))
      .map(([status, count]) => ({ status, count }))
      .sort((a, b) => a.status - b.status),
    lateness: latenessOf(samples),
    fromSending: sending && { medianUs: sending.medianUs, p99Us: sending.p99Us },
    law: littlesLaw(samples),
    bins: binsOver(samples, open, endUs),
    points: pointsOf(samples, open, endUs),
    findings: findInLoad({ plan, samples, endUs })
  };
}

/** Values and how often each occurs, the most frequent first. */
function countsOf(values: Float64Array): [value: number, count: number][] {
  const counts = new Map<number, number>();
  for (const value of values) counts.set(value, (counts.get(value) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1]);
}
