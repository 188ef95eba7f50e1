import { readStatementStream } from '@tromix/core/calls/statement-log/read';
import { summariseStatements } from '@tromix/core/calls/statement-log/summary';
import { contentOf } from '../stored-file';
import type { Examiner } from '../kind';

/** Beyond this a log does not come from a server. */
const LIMITS = { maxBytes: 64 * 1024 ** 3, setting: 'the longest log that is read' };

/** Logs may be larger than any memory: they are read as they come. */
export const examineStatements: Examiner<'statements'> = async (file, format) => {
  const log = await readStatementStream(contentOf(file, LIMITS), format);
  const { firstUs, lastUs, warnings } = log;
  return {
    kind: 'statements',
    format,
    summary: summariseStatements(log),
    startedAtUs: firstUs,
    durationNs: firstUs === null || lastUs === null ? 0 : (lastUs - firstUs) * 1000,
    warnings,
    log
  };
};
