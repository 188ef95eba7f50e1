import { isOpen } from './plan';
import type { LoadRun } from './run-file';
import { FAULTS, responseTimes, type Fault } from './samples';
import { traceOf } from './trace-ids';

/** In which order the requests of a run are listed. */
export const SAMPLE_ORDERS = ['slowest', 'latest', 'failed'] as const;
export type SampleOrder = (typeof SAMPLE_ORDERS)[number];

/** A request of a run as a table shows it. Times in microseconds. */
export interface SampleRow {
  number: number;
  step: number;
  user: number;
  /** When it was to be sent, after the run's start. */
  intendedUs: number;
  responseUs: number;
  lateUs: number;
  status: number;
  bytes: number;
  fault: Fault;
  traceId: string;
}

const MOST_ROWS = 100;

/** The slowest, the latest or the failed requests of a run. */
export function sampleRows({ key, plan, samples }: LoadRun, order: SampleOrder): SampleRow[] {
  const times = responseTimes(samples, isOpen(plan));
  const faults = samples.column('fault');
  const all = Array.from(times.keys());
  const chosen =
    order === 'slowest'
      ? all.sort((a, b) => times[b] - times[a])
      : (order === 'failed' ? all.filter((i) => faults[i] > 0) : all).reverse();
  return chosen.slice(0, MOST_ROWS).map((i) => {
    const { number, step, user, intendedUs, lateUs, status, bytes, fault } = samples.at(i);
    return {
      number,
      step,
      user,
      intendedUs,
      responseUs: times[i],
      lateUs,
      status,
      bytes,
      fault: FAULTS[fault],
      traceId: traceOf(key, number).traceId
    };
  });
}
