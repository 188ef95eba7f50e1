import type { Logged } from './model';
import type { StatementGroups } from './groups';

const DURATION =
  /^duration: (\d+(?:\.\d+)?) ms(?:\s+(statement|parse|bind|execute fetch from|execute)(?: [^:]*)?: ([\s\S]*))?$/;

/** One message of a PostgreSQL server log. */
export interface PostgresMessage {
  message: string;
  atUs: number | null;
  asker: string;
  /** Tells the sessions apart; '' where the log does not. */
  session: string;
}

/** Sessions whose planning is remembered at once. */
const MAX_SESSIONS = 10_000;

/**
 * What messages of a PostgreSQL log tell of statements. In the extended protocol one execution is three messages, parse, bind and execute: it is one
 * call, of the time of its execute; parse and bind are its planning. A further fetch from the same portal goes on with it. What `auto_explain` writes
 * is the same execution once more.
 * Source: PostgreSQL documentation, "Message Flow: Extended Query" and `log_min_duration_statement`.
 */
export class PostgresMessages {
  readonly #groups: StatementGroups;
  /** By session the planning that no execution has taken yet: a session does one thing after another. */
  readonly #planning = new Map<string, { sql: string; ns: number }>();

  constructor(groups: StatementGroups) {
    this.#groups = groups;
  }

  take({ message, session, ...parts }: PostgresMessage): void {
    const found = DURATION.exec(message);
    if (!found) return;
    const [, ms, step, sql] = found;
    if (sql === undefined) {
      if (!/^duration: [\d.]+ ms\s+plan:/.test(message))
        this.#groups.warnings.add(
          'duration-alone',
          'A line has a duration without its statement (log_duration); log_min_duration_statement writes both.'
        );
      return;
    }
    const durationNs = Math.round(Number(ms) * 1e6);
    if (step === 'parse' || step === 'bind') {
      if (this.#planning.size >= MAX_SESSIONS) this.#planning.clear();
      const open = this.#planning.get(session);
      if (open?.sql === sql) open.ns += durationNs;
      else this.#planning.set(session, { sql, ns: durationNs });
      return;
    }
    const logged: Logged = { ...parts, sql, durationNs };
    if (step === 'execute fetch from') logged.goesOn = true;
    else if (step === 'execute') {
      const open = this.#planning.get(session);
      if (open?.sql === sql) logged.planNs = open.ns;
      this.#planning.delete(session);
    }
    this.#groups.take(logged);
  }
}

/** A time of which only the zone is not known is said so. */
export function knownTime(
  groups: StatementGroups,
  time: { atUs: number | null; unknownZone: string } | null
): number | null {
  if (time?.unknownZone)
    groups.warnings.add(
      'zone-unknown',
      `A time is in the zone ${time.unknownZone}, which means several or is not known here; it counts as not known. Set log_timezone to UTC.`
    );
  return time?.atUs ?? null;
}
