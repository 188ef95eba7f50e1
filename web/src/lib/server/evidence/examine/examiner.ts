import { readFile, stat } from 'node:fs/promises';
import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import type { StoredFile } from '../stored-file';

/** The content of a file that is read in one piece. @throws EvidenceError `too-large` and those of `gunzip`. */
export async function wholeContent({ path }: StoredFile, maxBytes: number): Promise<Uint8Array> {
  const { size } = await stat(path);
  if (size > maxBytes)
    throw new EvidenceError(
      'too-large',
      `The file is larger than ${maxBytes} bytes; only heap dumps may be. The limit is the setting TROMIX_MAX_PROFILE_BYTES.`
    );
  return gunzip(await readFile(path), { maxBytes, setting: 'TROMIX_MAX_PROFILE_BYTES' });
}
