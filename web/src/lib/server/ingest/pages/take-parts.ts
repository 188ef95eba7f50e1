import { decodeTracesJson, decodeTracesProtobuf } from '@tromix/core/formats/otlp/traces';
import { partsFromBatch } from '@tromix/core/pages/from-batch';
import type { Accepted } from '../accepted';
import { nameOf } from '../body';
import type { SentBody } from '../signals';
import type { Writer } from '../writer';

/**
 * Stores the parts of page loads that a body brings, all of them in one transaction.
 * @param receivedUs when it came, epoch microseconds
 * @throws EvidenceError for content that is no OTLP
 */
export async function takePageParts(
  writer: Writer,
  { body, encoding, gzip }: SentBody,
  receivedUs: number
): Promise<Accepted> {
  const batch = writer.decoded(body, gzip, nameOf(body), (content) =>
    encoding === 'json' ? decodeTracesJson(new TextDecoder().decode(content)) : decodeTracesProtobuf(content)
  );
  const { parts, rejected } = partsFromBatch(batch, receivedUs);
  if (parts.length > 0) await writer.addPageParts(parts);
  return { spans: batch.spans.length, rejected, warnings: batch.warnings, old: null };
}
