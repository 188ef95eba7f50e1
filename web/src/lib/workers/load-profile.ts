import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { recognise } from '@tromix/core/formats/recognise';
import { readProfile, type ReadProfile } from '@tromix/core/profile/read';
import { fetchContent } from './fetch-content';

/** Fetches and reads a profile. @param measure what weighs; '' for the file's default. @throws EvidenceError where it is gone, or no profile. */
export async function loadProfile(url: string, measure = ''): Promise<ReadProfile> {
  const content = await fetchContent(url);
  const { kind, format } = recognise(content);
  if (kind !== 'profile') throw new EvidenceError('not-a-profile', 'The file is no profile.');
  return readProfile(content, format, measure);
}
