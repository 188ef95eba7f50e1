import type { Crash } from '@tromix/core/crashes/crash';
import { fileOf } from '../evidence/file-of';
import { callEvidenceReader } from '../workers';
import type { EvidenceItem } from './evidence';

const READ_MS = 60_000;

/** What the file of a crash tells; null where it is gone. */
export async function crashContent(item: EvidenceItem<'crash'>): Promise<Crash | null> {
  try {
    return await callEvidenceReader((reader) => reader.crash(fileOf(item)), READ_MS);
  } catch (cause) {
    if ((cause as { code?: string }).code === 'ENOENT' || /ENOENT/.test(String(cause))) return null;
    throw cause;
  }
}
