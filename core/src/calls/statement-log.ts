import Papa from 'papaparse';
import { EvidenceError, Warnings, type Warning } from '../formats/evidence-error';
import { addBucket, bucketOf, copyOf, emptySketch, mergeInto, type Sketch } from '../stats/sketch';
import { inTimeRange, MAX_DURATION_NS, TIME_RANGE } from '../trace/time-range';
import { fingerprintSql } from './sql/fingerprint';
import type { Dialect } from './sql/tokens';

/** More rows than any table has are damage. */
const MAX_ROWS = 1e12;

export type StatementLogFormat = 'postgresql-csvlog' | 'postgresql-stderr' | 'mysql-slow-log';

/** One statement as a log tells it. */
interface Logged {
  sql: string;
  durationNs: number;
  /** Epoch microseconds; null where the line has no time that can be read. */
  atUs: number | null;
  rows: number | null;
  /** `user@database`, as far as it is told. */
  asker: string;
}

/** Statements alike but for their literals. Nanoseconds. */
export interface StatementGroup {
  fingerprint: string;
  verb: string;
  calls: number;
  totalNs: number;
  slowestNs: number;
  /** Sum of rows where told, and for how many calls. */
  rows: number;
  rowsKnown: number;
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

const PG_DURATION =
  /\bduration: (\d+(?:\.\d+)?) ms(?:\s+(?:statement|(?:parse|bind|execute) [^:]*): ([\s\S]*))?$/;
const PG_LINE =
  /^(\d{4}-\d\d-\d\d \d\d:\d\d:\d\d(?:\.\d+)?) ([A-Za-z/+\-:_0-9]+) (.*?)\b(?:LOG|DEBUG\d?|INFO|NOTICE|WARNING|ERROR|FATAL|PANIC|DETAIL|HINT|CONTEXT|STATEMENT):  ?(.*)$/;

/**
 * Says whether a text is a log of statements this project reads, by the shape of its lines; null where it is none.
 * @param head some kilobytes of the beginning.
 */
export function statementLogFormat(head: string): StatementLogFormat | null {
  if (/^# (?:Time|User@Host|Query_time): /m.test(head)) return 'mysql-slow-log';
  if (/^\d{4}-\d\d-\d\d \d\d:\d\d:\d\d\.\d+ [A-Z][^,]*,(?:"[^"]*"|[^,]*),(?:"[^"]*"|[^,]*),\d+,/m.test(head))
    return 'postgresql-csvlog';
  if (head.split('\n').some((line) => PG_LINE.test(line))) return 'postgresql-stderr';
  return null;
}

/**
 * Reads a PostgreSQL csvlog (columns as in its documentation, "Using CSV-Format Log Output"), PostgreSQL stderr duration lines
 * (`log_min_duration_statement`, `log_duration`), or a MySQL slow query log, and groups its statements by fingerprint.
 * @throws EvidenceError `no-statements` where the log tells no duration of any statement.
 */
export function readStatementLog(text: string, format: StatementLogFormat): StatementLog {
  const warnings = new Warnings();
  const groups = new Map<string, StatementGroup>();
  const dialect: Dialect = format === 'mysql-slow-log' ? 'mysql' : 'postgresql';
  let statements = 0;
  let firstUs: number | null = null;
  let lastUs: number | null = null;
  const take = (told: Logged): void => {
    if (!(told.durationNs >= 0 && told.durationNs <= MAX_DURATION_NS)) {
      warnings.add('duration-out-of-range', 'A statement took longer than 100 days; it was left out.');
      return;
    }
    const logged = { ...told, atUs: told.atUs !== null && inTimeRange(told.atUs) ? told.atUs : null };
    if (told.atUs !== logged.atUs)
      warnings.add('time-out-of-range', `A time lies outside ${TIME_RANGE}; it counts as not known.`);
    if (logged.rows !== null && !(logged.rows >= 0 && logged.rows <= MAX_ROWS)) logged.rows = null;
    statements++;
    if (logged.atUs !== null) {
      firstUs = Math.min(firstUs ?? Infinity, logged.atUs);
      lastUs = Math.max(lastUs ?? -Infinity, logged.atUs);
    }
    addStatement(groups, logged, dialect);
  };
  if (format === 'postgresql-csvlog') readCsvLog(text, take, warnings);
  else if (format === 'postgresql-stderr') readStderr(text, take, warnings);
  else readSlowLog(text, take, warnings);
  if (statements === 0)
    throw new EvidenceError(
      'no-statements',
      'The log was read, but no line tells how long a statement took. For PostgreSQL set log_min_duration_statement, for MySQL the slow query log, and try again.'
    );
  return {
    format,
    statements,
    firstUs,
    lastUs,
    groups: [...groups.values()].sort((a, b) => b.totalNs - a.totalNs),
    warnings: warnings.list()
  };
}

function addStatement(groups: Map<string, StatementGroup>, logged: Logged, dialect: Dialect): void {
  const { text } = fingerprintSql(logged.sql, dialect);
  let group = groups.get(text);
  if (!group) {
    group = {
      fingerprint: text,
      verb: /^\w+/.exec(text)?.[0].toLowerCase() ?? '',
      calls: 0,
      totalNs: 0,
      slowestNs: 0,
      rows: 0,
      rowsKnown: 0,
      askers: new Map(),
      sketch: emptySketch()
    };
    groups.set(text, group);
  }
  group.calls++;
  group.totalNs += logged.durationNs;
  group.slowestNs = Math.max(group.slowestNs, logged.durationNs);
  if (logged.rows !== null) {
    group.rows += logged.rows;
    group.rowsKnown++;
  }
  if (logged.asker) group.askers.set(logged.asker, (group.askers.get(logged.asker) ?? 0) + 1);
  addBucket(group.sketch, bucketOf(logged.durationNs / 1000), 1);
}

/** Two groups as one, under the name of the first. */
export function mergeStatements(first: StatementGroup, second: StatementGroup): StatementGroup {
  const sum: StatementGroup = {
    ...first,
    calls: first.calls + second.calls,
    totalNs: first.totalNs + second.totalNs,
    slowestNs: Math.max(first.slowestNs, second.slowestNs),
    rows: first.rows + second.rows,
    rowsKnown: first.rowsKnown + second.rowsKnown,
    askers: new Map(first.askers),
    sketch: copyOf(first.sketch)
  };
  for (const [name, calls] of second.askers) sum.askers.set(name, (sum.askers.get(name) ?? 0) + calls);
  mergeInto(sum.sketch, second.sketch);
  return sum;
}

/** A PostgreSQL message about a duration; null for any other message. */
function durationOf(message: string, warnings: Warnings): { durationNs: number; sql: string } | null {
  const found = PG_DURATION.exec(message);
  if (!found) return null;
  if (found[2] === undefined) {
    warnings.add(
      'duration-alone',
      'A line tells a duration without its statement (log_duration); log_min_duration_statement writes both.'
    );
    return null;
  }
  return { durationNs: Math.round(Number(found[1]) * 1e6), sql: found[2] };
}

const CSV_COLUMNS_MIN = 14;

function readCsvLog(text: string, take: (logged: Logged) => void, warnings: Warnings): void {
  Papa.parse<string[]>(text, {
    skipEmptyLines: true,
    step: ({ data, errors }) => {
      if (errors.length > 0 || data.length < CSV_COLUMNS_MIN) {
        warnings.add(
          'line-skipped',
          'A record does not have the columns of a PostgreSQL csvlog; it was skipped.'
        );
        return;
      }
      const [at, user, database] = data;
      const duration = durationOf(data[13], warnings);
      if (duration)
        take({
          ...duration,
          atUs: pgTime(at),
          rows: null,
          asker: [user, database].filter(Boolean).join('@')
        });
    }
  });
}

function readStderr(text: string, take: (logged: Logged) => void, warnings: Warnings): void {
  let open: { at: string; prefix: string; message: string } | null = null;
  const close = (): void => {
    if (!open) return;
    const duration = durationOf(open.message, warnings);
    if (duration) {
      const asker = /(\w[\w-]*)@(\w[\w-]*)/.exec(open.prefix)?.[0] ?? '';
      take({ ...duration, atUs: pgTime(open.at), rows: null, asker });
    }
    open = null;
  };
  for (const line of linesOf(text)) {
    const found = PG_LINE.exec(line);
    if (found) {
      close();
      open = { at: `${found[1]} ${found[2]}`, prefix: found[3], message: found[4] };
    } else if (open && line.startsWith('\t')) open.message += `\n${line.slice(1)}`;
    else if (line.trim() !== '') {
      close();
      warnings.add('line-skipped', 'A line is no line of a PostgreSQL log; it was skipped.');
    }
  }
  close();
}

/** `2026-11-23 10:00:00.123 UTC`; zones other than UTC and GMT are read as an offset where they are one, else as UTC. */
function pgTime(text: string): number | null {
  const found = /^(\d{4}-\d\d-\d\d) (\d\d:\d\d:\d\d(?:\.\d+)?)(?: ([+-]\d\d(?::?\d\d)?))?/.exec(text);
  if (!found) return null;
  const zone = found[3] ? found[3].padEnd(6, ':00') : 'Z';
  const ms = Date.parse(`${found[1]}T${found[2]}${zone}`);
  return Number.isNaN(ms) ? null : ms * 1000;
}

interface SlowEntry {
  durationNs: number;
  rows: number | null;
  atUs: number | null;
  asker: string;
  sql: string[];
}

function readSlowLog(text: string, take: (logged: Logged) => void, warnings: Warnings): void {
  let entry: SlowEntry | null = null;
  let atUs: number | null = null;
  let asker = '';
  const close = (): void => {
    if (entry && entry.sql.length > 0) take({ ...entry, sql: entry.sql.join('\n').replace(/;\s*$/, '') });
    else if (entry)
      warnings.add('no-statement', 'An entry of the slow log has no statement; it was skipped.');
    entry = null;
  };
  for (const line of linesOf(text)) {
    if (line.startsWith('# ')) {
      const time = /^# Time: (\S+)/.exec(line)?.[1];
      const user = /^# User@Host: (\S+?)\[/.exec(line)?.[1];
      const query = /^# Query_time: ([\d.]+)/.exec(line)?.[1];
      if (time || user || query) {
        if (entry && entry.sql.length > 0) close();
        if (time) {
          const ms = Date.parse(time);
          atUs = Number.isNaN(ms) ? null : ms * 1000;
        }
        if (user) asker = user;
      }
      if (query) {
        const rows = /Rows_sent: (\d+)/.exec(line)?.[1];
        entry = {
          durationNs: Math.round(Number(query) * 1e9),
          rows: rows === undefined ? null : Number(rows),
          atUs,
          asker,
          sql: []
        };
      }
      continue;
    }
    const stamp = /^SET timestamp=(\d+)/.exec(line)?.[1];
    if (stamp && entry) {
      entry.atUs = Number(stamp) * 1e6;
      continue;
    }
    const database = /^use ([\w$-]+);/i.exec(line)?.[1];
    if (database && entry && entry.sql.length === 0) {
      entry.asker = [entry.asker, database].filter(Boolean).join('@');
      continue;
    }
    if (line.trim() === '' || !entry) {
      if (line.trim() !== '')
        warnings.add('line-skipped', 'A line stands before any entry of the slow log; it was skipped.');
      continue;
    }
    entry.sql.push(line);
  }
  close();
}

/** Lines one after another, without a second copy of the whole text. */
function* linesOf(text: string): Generator<string> {
  let at = 0;
  while (at < text.length) {
    let end = text.indexOf('\n', at);
    if (end < 0) end = text.length;
    yield text.slice(at, text[end - 1] === '\r' ? end - 1 : end);
    at = end + 1;
  }
}
