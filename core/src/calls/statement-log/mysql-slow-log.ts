import type { StatementGroups } from './groups';
import { lastTimeIn } from './log-time';
import type { Logged, LogReader } from './model';

/** What a server writes at each of its starts, before the first entry. */
const STARTED =
  /^(?:\S*(?:mysqld|mariadbd)\S*, Version: .*started with:|Tcp port: .*|Time\s+Id\s+Command\s+Argument)$/;
const MAX_LINES = 100_000;

interface Entry extends Logged {
  lines: string[];
  /** True once `SET timestamp` was read: a `use` after it is the statement itself. */
  begun: boolean;
}

/**
 * Reads a slow query log of MySQL or MariaDB. Sources: MySQL reference manual, "The Slow Query Log"; MariaDB documentation, "Slow Query Log Overview"
 * and `log_slow_verbosity`.
 */
export class MysqlSlowLog implements LogReader {
  readonly #groups: StatementGroups;
  #entry: Entry | null = null;
  #user = '';
  #schema = '';
  #atUs: number | null = null;

  constructor(groups: StatementGroups) {
    this.#groups = groups;
  }

  line(line: string): void {
    if (line.startsWith('#')) this.#header(line);
    else if (this.#entry) this.#inEntry(this.#entry, line);
    else if (line.trim() !== '' && !STARTED.test(line))
      this.#groups.warnings.add(
        'line-skipped',
        'A line stands before any entry of the slow log; it was skipped.'
      );
  }

  #header(line: string): void {
    const number = (name: string): number | undefined => {
      const found = new RegExp(`${name}: ([\\d.]+)`).exec(line)?.[1];
      return found === undefined ? undefined : Number(found);
    };
    const time = /^# Time: (.+)$/.exec(line)?.[1];
    const user = /^# User@Host: (\S+?)\[/.exec(line)?.[1];
    const query = number('Query_time');
    if (time !== undefined || user !== undefined || query !== undefined) this.#close();
    // MariaDB writes local times without a zone: SET timestamp tells it.
    if (time !== undefined) this.#atUs = lastTimeIn(time)?.atUs ?? null;
    if (user !== undefined) this.#user = user;
    const schema = /\bSchema: (\S+)/.exec(line)?.[1];
    if (schema !== undefined) this.#schema = schema;
    if (query !== undefined)
      this.#entry = {
        sql: '',
        durationNs: Math.round(query * 1e9),
        atUs: this.#atUs,
        asker: '',
        rows: number('Rows_sent'),
        examined: number('Rows_examined'),
        lockNs: Math.round((number('Lock_time') ?? 0) * 1e9),
        lines: [],
        begun: false
      };
    // What a client asked of the server itself (a ping, say) is no statement.
    if (line.startsWith('# administrator command:')) this.#entry = null;
  }

  #inEntry(entry: Entry, line: string): void {
    if (entry.lines.length === 0) {
      const stamp = /^SET timestamp=(\d+)(?:\.(\d{1,6}))?;/i.exec(line);
      if (stamp) {
        entry.atUs = Number(stamp[1]) * 1e6 + Number((stamp[2] ?? '').padEnd(6, '0'));
        entry.begun = true;
        return;
      }
      const schema = entry.begun ? undefined : /^use [`"]?([^`";]+)[`"]?;$/i.exec(line)?.[1];
      if (schema !== undefined) {
        this.#schema = schema;
        return;
      }
    }
    if (entry.lines.length < MAX_LINES && (line.trim() !== '' || entry.lines.length > 0))
      entry.lines.push(line);
  }

  #close(): void {
    const entry = this.#entry;
    this.#entry = null;
    if (!entry) return;
    const { lines, begun: _, ...logged } = entry;
    // A restart writes its lines after the last statement.
    while (lines.length > 0 && (lines.at(-1)!.trim() === '' || STARTED.test(lines.at(-1)!))) lines.pop();
    if (lines.length === 0)
      this.#groups.warnings.add('no-statement', 'An entry of the slow log has no statement; it was skipped.');
    else
      this.#groups.take({
        ...logged,
        sql: lines.join('\n').replace(/;\s*$/, ''),
        asker: [this.#user, this.#schema].filter(Boolean).join('@')
      });
  }

  end(): void {
    this.#close();
  }
}
