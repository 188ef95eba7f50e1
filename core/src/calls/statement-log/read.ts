import { EvidenceError, type Warning } from '../../formats/evidence-error';
import { formatDuration } from '../../text/format';
import { StatementGroups } from './groups';
import { MysqlSlowLog } from './mysql-slow-log';
import type { LogReader, StatementGroup, StatementLog, StatementLogFormat } from './model';
import { PostgresCsvlog } from './postgres-csvlog';
import { PostgresJsonlog } from './postgres-jsonlog';
import { PostgresStderr } from './postgres-stderr';

const READERS: Record<StatementLogFormat, new (groups: StatementGroups) => LogReader> = {
  'postgresql-csvlog': PostgresCsvlog,
  'postgresql-jsonlog': PostgresJsonlog,
  'postgresql-stderr': PostgresStderr,
  'mysql-slow-log': MysqlSlowLog
};

/** A line longer than this is cut: no statement is. */
const MAX_LINE = 16 * 1024 * 1024;

/** Reads a log of statements piece by piece, whatever its length, and groups its statements by fingerprint. */
export class StatementLogReader {
  readonly #format: StatementLogFormat;
  readonly #groups: StatementGroups;
  readonly #reader: LogReader;
  #rest = '';

  constructor(format: StatementLogFormat) {
    this.#format = format;
    this.#groups = new StatementGroups(format === 'mysql-slow-log' ? 'mysql' : 'postgresql');
    this.#reader = new READERS[format](this.#groups);
  }

  push(text: string): void {
    let at = 0;
    for (let end = text.indexOf('\n'); end >= 0; end = text.indexOf('\n', at)) {
      const line = this.#rest + text.slice(at, end);
      this.#rest = '';
      this.#reader.line(line.endsWith('\r') ? line.slice(0, -1) : line);
      at = end + 1;
    }
    if (this.#rest.length + text.length - at <= MAX_LINE) this.#rest += text.slice(at);
  }

  /** @throws EvidenceError `no-statements` where the log tells no duration of any statement. */
  end(): StatementLog {
    if (this.#rest !== '') this.#reader.line(this.#rest);
    this.#reader.end();
    const { statements, firstUs, lastUs, list, warnings } = this.#groups;
    if (statements === 0)
      throw new EvidenceError(
        'no-statements',
        'The log was read, but no line says how long a statement took. For PostgreSQL set log_min_duration_statement, for MySQL the slow query log, and try again.'
      );
    return {
      format: this.#format,
      statements,
      firstUs,
      lastUs,
      groups: list,
      warnings: [...warnings.list(), ...besideTheDurations(list)]
    };
  }
}

/** Warnings about times that come beside those of the statements. */
function besideTheDurations(groups: readonly StatementGroup[]): Warning[] {
  const sum = (of: 'planNs' | 'lockNs'): number => groups.reduce((total, group) => total + group[of], 0);
  const warnings: Warning[] = [];
  const [planNs, lockNs] = [sum('planNs'), sum('lockNs')];
  if (planNs > 0)
    warnings.push({
      code: 'planning-apart',
      message: `Parsing and planning (parse and bind) took ${formatDuration(planNs)} more; the times are those of the executions.`,
      count: groups.filter((group) => group.planNs > 0).length
    });
  if (lockNs > 0)
    warnings.push({
      code: 'lock-time',
      message: `${formatDuration(lockNs)} of the times were waits for locks.`,
      count: groups.filter((group) => group.lockNs > 0).length
    });
  return warnings;
}

/**
 * Reads a log that is in memory: a PostgreSQL csvlog, jsonlog or stderr log, or a slow query log of MySQL or MariaDB.
 * @throws EvidenceError as `StatementLogReader.end`.
 */
export function readStatementLog(text: string, format: StatementLogFormat): StatementLog {
  const reader = new StatementLogReader(format);
  reader.push(text);
  return reader.end();
}

/**
 * Reads a log from its bytes as they come.
 * @throws EvidenceError as `StatementLogReader.end`; whatever the bytes throw.
 */
export async function readStatementStream(
  bytes: AsyncIterable<Uint8Array>,
  format: StatementLogFormat
): Promise<StatementLog> {
  const reader = new StatementLogReader(format);
  const decoder = new TextDecoder();
  for await (const part of bytes) reader.push(decoder.decode(part, { stream: true }));
  reader.push(decoder.decode());
  return reader.end();
}
