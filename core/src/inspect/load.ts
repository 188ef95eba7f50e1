import type { LoadPlan } from '../load/plan';
import { reportOf, type LoadReport } from '../load/report';
import type { LoadRun } from '../load/run-file';

/** What is said of a load run without a server: all but its single points. Times in microseconds. */
export interface InspectedRun extends Omit<LoadReport, 'points' | 'findings'> {
  key: string;
  name: string;
  /** Epoch microseconds. */
  startedAtUs: number;
  end: LoadRun['end'];
  plan: LoadPlan;
  findings: LoadReport['findings'];
}

export function inspectRun(run: LoadRun): InspectedRun {
  const { key, name, startedAtUs, end, plan } = run;
  const { points, ...report } = reportOf(run);
  void points;
  return { key, name, startedAtUs, end, plan, ...report };
}
