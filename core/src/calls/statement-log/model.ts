import type { Warning } from '../../formats/evidence-error';
import type { Sketch } from '../../stats/sketch';

export const STATEMENT_LOG_FORMATS = [
  'postgresql-csvlog',
  'postgresql-jsonlog',
  'postgresql-stderr',
  'mysql-slow-log'
] as const;
export type StatementLogFormat = (typeof STATEMENT_LOG_FORMATS)[number];

/** One execution of a statement as a log tells it. */
export interface Logged {
  sql: string;
  durationNs: number;
  /** Epoch microseconds; null where the line has no time that can be read. */
  atUs: number | null;
  /** `user@database`, as far as it is reported. */
  asker: string;
  rows?: number;
  /** Rows the server looked at for it. */
  examined?: number;
  /** Parsing and planning, and waiting for locks, beside or within the duration as the server counts them. */
  planNs?: number;
  lockNs?: number;
  /** True for a further part of an execution that is counted already. */
  goesOn?: boolean;
}

/** Statements alike but for their literals. Nanoseconds. */
export interface StatementGroup {
  fingerprint: string;
  verb: string;
  calls: number;
  totalNs: number;
  slowestNs: number;
  /** Sum of rows where reported, and for how many calls. */
  rows: number;
  rowsKnown: number;
  /** Sums where reported; 0 where not. */
  examined: number;
  planNs: number;
  lockNs: number;
  /** `user@database` → calls. */
  askers: Map<string, number>;
  /** Durations over microseconds. */
  sketch: Sketch;
}

export interface StatementLog {
  format: StatementLogFormat;
  statements: number;
  firstUs: number | null;
  lastUs: number | null;
  /** Most total time first. */
  groups: StatementGroup[];
  warnings: Warning[];
}

/** Reads records of one format. */
export interface LogReader {
  /** @param line without its end. */
  line(line: string): void;
  end(): void;
}
