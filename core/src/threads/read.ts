import type { Warning } from '../formats/evidence-error';
import { readGoText } from './go-text';
import { readJvmFileText } from './jvm-file-text';
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
