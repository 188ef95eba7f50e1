import type { StatementGroups } from './groups';
import { lastTimeIn } from './log-time';
import type { LogReader } from './model';
import { knownTime, PostgresMessages } from './postgres-message';

/** True for a line of a jsonlog: an object with the keys that every record has. */
export const isJsonlogLine = (line: string): boolean =>
  line.startsWith('{') && /"timestamp"\s*:/.test(line) && /"error_severity"\s*:/.test(line);

/** Reads a jsonlog, one object a line. Source: PostgreSQL documentation, "Using JSON-Format Log Output" (version 15). */
export class PostgresJsonlog implements LogReader {
  readonly #groups: StatementGroups;
  readonly #messages: PostgresMessages;

  constructor(groups: StatementGroups) {
    this.#groups = groups;
    this.#messages = new PostgresMessages(groups);
  }

  line(line: string): void {
    if (line.trim() === '') return;
    const record = recordOf(line);
    const text = (name: string): string => {
      const value = record?.[name];
      return typeof value === 'string' ? value : '';
    };
    if (!record || text('timestamp') === '') {
      this.#groups.warnings.add(
        'line-skipped',
        'A line is no record of a PostgreSQL jsonlog; it was skipped.'
      );
      return;
    }
    if (!text('message').startsWith('duration: ')) return;
    this.#messages.take({
      message: text('message'),
      atUs: knownTime(this.#groups, lastTimeIn(text('timestamp'))),
      asker: [text('user'), text('dbname')].filter(Boolean).join('@'),
      session: text('session_id')
    });
  }

  end(): void {
    // Each line is a record.
  }
}

function recordOf(line: string): Record<string, unknown> | null {
  try {
    const value: unknown = JSON.parse(line);
    return typeof value === 'object' && value !== null && !Array.isArray(value)
      ? (value as Record<string, unknown>)
      : null;
  } catch {
    return null;
  }
}
