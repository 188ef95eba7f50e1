import { readFile, stat } from 'node:fs/promises';
import type { EvidenceKind, FormatOf } from '@tromix/core/evidence/kinds';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import type { ExaminedKind } from '../kind';
import type { StoredFile } from '../stored-file';

/** Reads a file of one kind whole, and says what was found in it. @throws EvidenceError as the reader. */
export type Examiner<K extends EvidenceKind> = (
  file: StoredFile,
  format: FormatOf<K>,
  limits: { maxBytes: number }
) => Promise<ExaminedKind<K>>;

/** The content of a file that is read in one piece. @throws EvidenceError `too-large` and those of `gunzip`. */
export async function wholeContent({ path }: StoredFile, maxBytes: number): Promise<Uint8Array> {
  const { size } = await stat(path);
  if (size > maxBytes)
    throw new EvidenceError(
      'too-large',
      `The file is larger than ${maxBytes} bytes, and no heap dump. The limit is the setting TROMIX_MAX_PROFILE_BYTES.`
    );
  return gunzip(await readFile(path), { maxBytes, setting: 'TROMIX_MAX_PROFILE_BYTES' });
}
