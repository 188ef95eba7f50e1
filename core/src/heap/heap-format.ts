import type { HeapFormat } from './heap-index';

/** The format of a heap dump by its first bytes; null for something else. */
export function heapFormat(head: Uint8Array): HeapFormat | null {
  const text = new TextDecoder('latin1').decode(head.subarray(0, 1024));
  if (text.startsWith('JAVA PROFILE 1.0')) return 'hprof';
  return /^\s*\{\s*"snapshot"\s*:\s*\{\s*"(?:meta|title)"/.test(text) ? 'v8-heap-snapshot' : null;
}
