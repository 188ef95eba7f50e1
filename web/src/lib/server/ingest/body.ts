import { createHash } from 'node:crypto';
import { gunzipSync } from 'node:zlib';
import { EvidenceError } from '@tromix/core/formats/evidence-error';

/** What the name of a body is worked out of: its beginning and its end, bytes each. */
const NAMED_BY = 64 * 1024;

/** A name for a body, equal for equal ones. */
export function nameOf(body: Uint8Array): string {
  return createHash('sha256')
    .update(body.subarray(0, NAMED_BY))
    .update(body.subarray(Math.max(0, body.length - NAMED_BY)))
    .update(String(body.length))
    .digest('hex')
    .slice(0, 32);
}

/** The content of a gzip body. @throws EvidenceError for damaged or too much of it */
export function inflated(body: Uint8Array, maxInflatedBytes: number): Uint8Array {
  try {
    return gunzipSync(body, { maxOutputLength: maxInflatedBytes });
  } catch (cause) {
    const { code, message } = cause as NodeJS.ErrnoException;
    if (code === 'ERR_BUFFER_TOO_LARGE')
      throw new EvidenceError(
        'inflated-too-large',
        `The body inflates to more than ${maxInflatedBytes} bytes. The limit is the setting TROMIX_MAX_INFLATED_BYTES.`
      );
    if (code === 'Z_BUF_ERROR')
      throw new EvidenceError(
        'gzip-truncated',
        'The gzip body ends early. Send it again whole.',
        body.length
      );
    throw new EvidenceError(
      'gzip-damaged',
      `The body is declared as gzip but does not inflate: ${message}.`,
      0
    );
  }
}
