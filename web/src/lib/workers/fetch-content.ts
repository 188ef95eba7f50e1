import { EvidenceError } from '@tromix/core/formats/evidence-error';
import { inflate } from './inflate';

/** A browser holds no longer text. */
const MAX_INFLATED = 512 * 1024 * 1024;

/** Fetches a stored file and inflates it. @throws EvidenceError where it is gone or too large. */
export async function fetchContent(url: string): Promise<Uint8Array> {
  const response = await fetch(url);
  if (!response.ok) throw new EvidenceError('gone', `The file could not be loaded (${response.status}).`);
  return inflate(new Uint8Array(await response.arrayBuffer()), {
    maxBytes: MAX_INFLATED,
    setting: 'the longest text a browser holds'
  });
}
