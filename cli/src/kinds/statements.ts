import type { StatementLogFormat } from '@tromix/core/calls/statement-log/model';
import { readStatementStream } from '@tromix/core/calls/statement-log/read';
import { inspectStatements, type InspectedStatements } from '@tromix/core/inspect/statements';
import { formatCount, formatDuration, plural } from '@tromix/core/text/format';
import { contentOf } from '../../../web/src/lib/server/evidence/stored-file';
import type { KindOnCommandLine } from './kind';

/** Logs may be as long as they like: they are read as they come. */
const LIMITS = { maxBytes: Infinity, setting: '' };

/** A log of statements names no findings: its list is there all the same, as of every kind. */
type Body = InspectedStatements & { findings: [] };

export const statements: KindOnCommandLine<StatementLogFormat, Body, Body> = {
  async read({ stored }, format, { top }) {
    const log = await readStatementStream(contentOf(stored, LIMITS), format);
    return { part: { findings: [], ...inspectStatements(log, top) } };
  },
  inspect: ([body]) => body,
  *lines({ statements: count, groups }) {
    yield `  ${plural(count, 'statement')}`;
    yield '';
    yield '     total     calls     mean      p95  statement';
    for (const { fingerprint, calls, totalNs, meanNs, p95Ns } of groups)
      yield `  ${formatDuration(totalNs).padStart(8)}  ${formatCount(calls).padStart(8)}  ${formatDuration(meanNs).padStart(7)}  ${formatDuration(p95Ns).padStart(7)}  ${fingerprint}`;
  }
};
