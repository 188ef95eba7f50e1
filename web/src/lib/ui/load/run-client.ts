import type { LoadReport } from '@tromix/core/load/report';
import type { SampleRow } from '@tromix/core/load/sample-rows';

/** What the server says of a run. */
export interface RunAnswer {
  report: LoadReport;
  rows: SampleRow[];
  /** The request each trace is shown by, `trace/span`, where it was sent here. */
  paths: Record<string, string>;
}
