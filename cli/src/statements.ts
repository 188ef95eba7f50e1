import { createReadStream } from 'node:fs';
import { createGunzip } from 'node:zlib';
import type { StatementLogFormat } from '@tromix/core/calls/statement-log/model';
import { readStatementStream } from '@tromix/core/calls/statement-log/read';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { isGzip } from '@tromix/core/formats/gzip';
import { isStatementLog, recognise } from '@tromix/core/formats/recognise';
import { inspectStatements, type InspectedStatements } from '@tromix/core/inspect/statements';
import { bytesAt, headOf } from './heap';

export interface InspectedLogFile {
  format: StatementLogFormat;
  found: InspectedStatements;
}

/** Reads a log of statements as it comes, whatever its length; null where the file is none. @throws EvidenceError as the reader. */
export async function inspectStatementFile(file: string, top: number): Promise<InspectedLogFile | null> {
  const format = formatOf(await headOf(file));
  if (!format) return null;
  const stored = createReadStream(file);
  const bytes = isGzip(await bytesAt(file)) ? inflated(stored.pipe(createGunzip())) : stored;
  return { format, found: inspectStatements(await readStatementStream(bytes, format), top) };
}

function formatOf(head: Uint8Array): StatementLogFormat | null {
  try {
    const format = recognise(head);
    return isStatementLog(format) ? format : null;
  } catch {
    // What it is instead is told by who reads it whole.
    return null;
  }
}

async function* inflated(stream: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  try {
    yield* stream;
  } catch (cause) {
    throw new EvidenceError('damaged-gzip', `The gzip data cannot be inflated: ${(cause as Error).message}.`);
  }
}
