import type { FileHead } from '../../formats/file-head';
import type { StatementLogFormat } from './model';
import { looksLikeCsvlog } from './postgres-csvlog';
import { isJsonlogLine } from './postgres-jsonlog';
import { postgresLine } from './postgres-stderr';

/** The format of a log of statements by its beginning; null for something else. */
export function recogniseStatementLog(head: FileHead): StatementLogFormat | null {
  if (head.isObject) return isJsonlogLine(head.text) ? 'postgresql-jsonlog' : null;
  if (/^# (?:Time|User@Host|Query_time): /m.test(head.lines)) return 'mysql-slow-log';
  const lines = head.lines.split('\n');
  if (lines.some(isJsonlogLine)) return 'postgresql-jsonlog';
  if (looksLikeCsvlog(head.lines)) return 'postgresql-csvlog';
  return lines.some(isServerLine) ? 'postgresql-stderr' : null;
}

/** A line of the server itself: with a time, a process or a session before the severity, or a duration after it. */
function isServerLine(line: string): boolean {
  const found = postgresLine(line);
  if (!found) return false;
  return (
    /\d\d:\d\d:\d\d|\[\d+\]|\d{10}\.\d{3}/.test(found.prefix) || /^duration: [\d.]+ ms/.test(found.message)
  );
}
