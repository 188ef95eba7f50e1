import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { gunzip } from '@tromix/core/formats/gzip';
import { isProfile, recognise } from '@tromix/core/formats/recognise';
import { readProfile, type ReadProfile } from '@tromix/core/profile/read';

/** A browser holds no longer text. */
const MAX_INFLATED = 512 * 1024 * 1024;

/** Fetches and reads a profile. @throws EvidenceError where it is gone, or no profile. */
export async function loadProfile(url: string): Promise<ReadProfile> {
  const response = await fetch(url);
  if (!response.ok)
    throw new EvidenceError('gone', `The file of a profile could not be loaded (${response.status}).`);
  const content = gunzip(new Uint8Array(await response.arrayBuffer()), {
    maxBytes: MAX_INFLATED,
    setting: 'the longest text a browser holds'
  });
  const format = recognise(content);
  if (!isProfile(format)) throw new EvidenceError('not-a-profile', 'The file is no profile.');
  return readProfile(content, format);
}
