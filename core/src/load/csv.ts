import { toCsv } from '../text/csv';
import { stepName } from './plan';
import type { LoadRun } from './run-file';
import { FAULTS } from './samples';
import { traceOf } from './trace-ids';

/** The samples of a run as CSV, one a row, with the trace each caused. Times in milliseconds. */
export function samplesCsv({ key, plan, startedAtUs, samples }: LoadRun): string {
  const ms = (us: number): number => Math.round(us) / 1000;
  const rows = Array.from({ length: samples.length }, (_, i) => {
    const { number, step, user, intendedUs, lateUs, durationUs, status, bytes, fault } = samples.at(i);
    return [
      new Date((startedAtUs + intendedUs) / 1000).toISOString(),
      stepName(plan.steps[step]),
      user + 1,
      ms(intendedUs),
      ms(lateUs),
      ms(durationUs),
      status === 0 ? '' : status,
      bytes,
      FAULTS[fault],
      traceOf(key, number).traceId
    ];
  });
  const head = 'intended at,step,user,intended ms,late ms,duration ms,status,bytes,fault,trace id'.split(',');
  return toCsv(head, rows);
}
