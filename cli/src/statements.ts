import type { StatementLogFormat } from '@tromix/core/calls/statement-log/model';
import { readStatementStream } from '@tromix/core/calls/statement-log/read';
import { inspectStatements, type InspectedStatements } from '@tromix/core/inspect/statements';
import { contentOf, type StoredFile } from '../../web/src/lib/server/evidence/stored-file';

/** Logs may be as long as they like: they are read as they come. */
const LIMITS = { maxBytes: Infinity, setting: '' };

/** Reads a log of statements as it comes. @throws EvidenceError as the reader. */
export const inspectStatementFile = async (
  file: StoredFile,
  format: StatementLogFormat,
  top: number
): Promise<InspectedStatements> =>
  inspectStatements(await readStatementStream(contentOf(file, LIMITS), format), top);
