import type { Crash, CrashFormat } from './crash';
import { readCrashText } from './crash-text';
import { readJvmFatal } from './jvm-fatal';
import { readNodeCrash } from './node-crash';
import { readProcessEnd } from './process-end';

const READERS: Record<CrashFormat, (text: string) => Crash> = {
  'node-crash': readNodeCrash,
  'jvm-fatal-log': readJvmFatal,
  'crash-text': readCrashText,
  'process-end': readProcessEnd
};

/** Reads what a process left behind as it ended. @param content inflated. @throws EvidenceError as the format's reader. */
export const readCrash = (content: Uint8Array, format: CrashFormat): Crash =>
  READERS[format](new TextDecoder().decode(content));
