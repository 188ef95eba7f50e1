import type { Warning } from '../formats/evidence-error';
import { readGoText } from './go-text';
import { looksLikeThreadFile, readJvmFileText } from './jvm-file-text';
import { readJvmJson } from './jvm-json';
import { readJvmText } from './jvm-text';
import type { DumpSeries, ThreadFormat } from './model';
import { readNodeReport } from './node-report';
import { readPythonText } from './python-text';

const READERS: Record<ThreadFormat, (text: string) => { series: DumpSeries; warnings: Warning[] }> = {
  'jvm-threads': readJvmText,
  'jvm-threads-json': readJvmJson,
  'jvm-threads-file': readJvmFileText,
  'python-threads': readPythonText,
  'go-threads': readGoText,
  'node-report': readNodeReport
};

/**
 * Reads thread dumps of a known format.
 * @param content inflated.
 * @throws EvidenceError as the format's reader.
 */
export function readThreads(
  content: Uint8Array,
  format: ThreadFormat
): { series: DumpSeries; warnings: Warning[] } {
  return READERS[format](new TextDecoder().decode(content));
}

/** The format of a text of thread dumps by the lines at its beginning, amid any others; null for something else. */
export function threadTextFormat(head: string): ThreadFormat | null {
  if (head.includes('Full thread dump ')) return 'jvm-threads';
  if (looksLikeThreadFile(head)) return 'jvm-threads-file';
  if (/^(?:Current thread|Thread) 0x[0-9a-f]+.* \(most recent call first\):/m.test(head))
    return 'python-threads';
  if (/^(?:Stack|Traceback) \(most recent call first\):\r?\n {2}File "/m.test(head)) return 'python-threads';
  if (/^(?:goroutine \d+ .*\[.*\]:|\d+ goroutines? \[.*\]:|goroutine profile: total \d+)/m.test(head))
    return 'go-threads';
  return null;
}
