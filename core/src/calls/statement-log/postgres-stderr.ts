import type { StatementGroups } from './groups';
import { lastTimeIn } from './log-time';
import type { LogReader } from './model';
import { knownTime, PostgresMessages } from './postgres-message';

/** What containers and their tools write before each line: a name and a bar, or a time and the stream. */
const CONTAINER = /^(?:[\w.-]+\s*\| ?|\d{4}-\d\d-\d\dT[\d:.]+\S* std(?:out|err) [FP] )/;
/** Severities as the server writes them, followed by two spaces. The prefix before them is whatever `log_line_prefix` says. */
const LINE =
  /^(.{0,400}?)\b(LOG|DEBUG[1-5]?|INFO|NOTICE|WARNING|ERROR|FATAL|PANIC|DETAIL|HINT|CONTEXT|STATEMENT|QUERY|LOCATION): {2}(.*)$/;
const ASKER = /(?:user=)?([\w.$-]+|\[unknown\])(?:@|,\s?db=)([\w.$-]+|\[unknown\])/;

/** The parts of a line of a PostgreSQL log; null for any other line. */
export function postgresLine(line: string): { prefix: string; severity: string; message: string } | null {
  const found = LINE.exec(line.replace(CONTAINER, ''));
  return found && { prefix: found[1], severity: found[2], message: found[3] };
}

/** Reads lines as the server writes them to stderr, under any `log_line_prefix`. A statement of several lines goes on after a tab. */
export class PostgresStderr implements LogReader {
  readonly #groups: StatementGroups;
  readonly #messages: PostgresMessages;
  #open: { prefix: string; message: string[] } | null = null;

  constructor(groups: StatementGroups) {
    this.#groups = groups;
    this.#messages = new PostgresMessages(groups);
  }

  line(raw: string): void {
    const found = postgresLine(raw);
    if (found) {
      this.end();
      // Details and hints belong to the message before; of the severities only LOG tells durations.
      this.#open = { prefix: found.prefix, message: found.severity === 'LOG' ? [found.message] : [] };
      return;
    }
    const line = raw.replace(CONTAINER, '');
    if (this.#open && line.startsWith('\t')) {
      if (this.#open.message.length > 0) this.#open.message.push(line.slice(1));
    } else if (line.trim() !== '') {
      this.end();
      this.#groups.warnings.add('line-skipped', 'A line is no line of a PostgreSQL log; it was skipped.');
    }
  }

  end(): void {
    const open = this.#open;
    this.#open = null;
    if (!open || !open.message[0]?.startsWith('duration: ')) return;
    const { prefix } = open;
    this.#messages.take({
      message: open.message.join('\n'),
      atUs: knownTime(this.#groups, lastTimeIn(prefix)),
      asker: ASKER.exec(prefix)?.slice(1).join('@') ?? '',
      session: /\[(\d+)\]/.exec(prefix)?.[1] ?? ''
    });
  }
}
