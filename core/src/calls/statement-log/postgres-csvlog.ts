import Papa from 'papaparse';
import type { StatementGroups } from './groups';
import { lastTimeIn } from './log-time';
import type { LogReader } from './model';
import { knownTime, PostgresMessages } from './postgres-message';

/** Columns as the PostgreSQL documentation lists them, "Using CSV-Format Log Output": 23 of version 9.0, 26 of version 14. */
const COLUMNS_MIN = 23;
const [TIME, USER, DATABASE, PID, SESSION, SEVERITY, MESSAGE] = [0, 1, 2, 3, 5, 11, 13];
const SEVERITIES = /^(?:LOG|DEBUG[1-5]|INFO|NOTICE|WARNING|ERROR|FATAL|PANIC)$/;
/** A record longer than this is a quote that was never closed. */
const MAX_RECORD = 16 * 1024 * 1024;

const isRecord = (fields: readonly string[]): boolean =>
  fields.length >= COLUMNS_MIN &&
  /^\d{4}-\d\d-\d\d /.test(fields[TIME]) &&
  /^\d+$/.test(fields[PID]) &&
  SEVERITIES.test(fields[SEVERITY]);

/** True where a text holds a whole record of a csvlog near its beginning; commas in a statement make none. */
export function looksLikeCsvlog(head: string): boolean {
  const begin = head.search(/^\d{4}-\d\d-\d\d [\d:.]+ [^,\n]*,/m);
  if (begin < 0) return false;
  return Papa.parse<string[]>(head.slice(begin), { preview: 3 }).data.some(isRecord);
}

/** Reads records of a csvlog; one may hold lines in quotes. */
export class PostgresCsvlog implements LogReader {
  readonly #groups: StatementGroups;
  readonly #messages: PostgresMessages;
  #record: string[] = [];
  #length = 0;
  #quotes = 0;

  constructor(groups: StatementGroups) {
    this.#groups = groups;
    this.#messages = new PostgresMessages(groups);
  }

  line(line: string): void {
    this.#record.push(line);
    this.#length += line.length;
    for (let at = line.indexOf('"'); at >= 0; at = line.indexOf('"', at + 1)) this.#quotes++;
    // A record ends where all its quotes are closed.
    if (this.#quotes % 2 === 0 || this.#length > MAX_RECORD) this.end();
  }

  end(): void {
    const text = this.#record.join('\n');
    this.#record = [];
    this.#length = this.#quotes = 0;
    if (text.trim() === '') return;
    const { data, errors } = Papa.parse<string[]>(text);
    const fields = data[0] ?? [];
    if (errors.some(({ type }) => type === 'Quotes') || !isRecord(fields)) {
      this.#groups.warnings.add(
        'line-skipped',
        'A record does not have the columns of a PostgreSQL csvlog; it was skipped.'
      );
      return;
    }
    if (!fields[MESSAGE].startsWith('duration: ')) return;
    this.#messages.take({
      message: fields[MESSAGE],
      atUs: knownTime(this.#groups, lastTimeIn(fields[TIME])),
      asker: [fields[USER], fields[DATABASE]].filter(Boolean).join('@'),
      session: fields[SESSION]
    });
  }
}
