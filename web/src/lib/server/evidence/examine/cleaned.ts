import { createHash } from 'node:crypto';
import { open } from 'node:fs/promises';
import { maskContent } from '@tromix/core/mask/documents';
import type { EvidenceFormat } from '@tromix/core/formats/recognise';
import { writeAll } from '../evidence-store';

/** Larger files are profiles of code alone, and kept as they are. */
const MAX_CLEANED = 128 * 1024 * 1024;

/** Writes a file anew without its secrets; undefined where it has none. */
export async function cleaned(
  path: string,
  content: Uint8Array,
  format: EvidenceFormat
): Promise<{ id: string; bytes: number } | undefined> {
  if (content.length > MAX_CLEANED) return undefined;
  const masked = maskContent(content, format);
  return masked === content ? undefined : written(path, masked);
}

/** Writes a file anew. @returns what it is called then, and its size */
export async function written(
  path: string,
  content: string | Uint8Array
): Promise<{ id: string; bytes: number }> {
  const bytes = Buffer.from(content);
  const handle = await open(path, 'w');
  try {
    await writeAll(handle, bytes);
    await handle.sync();
  } finally {
    await handle.close();
  }
  return { id: createHash('sha256').update(bytes).digest('hex'), bytes: bytes.length };
}
