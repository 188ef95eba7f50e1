import type { FileHead } from '../formats/file-head';
import { looksLikeThreadFile } from './jvm-file-text';
import type { ThreadFormat } from './model';

/** The format of thread dumps by their beginning, amid any other lines; null for something else. */
export function recogniseThreads(head: FileHead): ThreadFormat | null {
  if (!head.isObject) return textFormat(head.lines);
  if (/"threadDump"\s*:/.test(head.text)) return 'jvm-threads-json';
  const isReport =
    /^\{\s*"header"\s*:\s*\{/.test(head.text) && /"(?:nodejsVersion|reportVersion)"\s*:/.test(head.text);
  return isReport ? 'node-report' : null;
}

function textFormat(lines: string): ThreadFormat | null {
  if (lines.includes('Full thread dump ')) return 'jvm-threads';
  if (looksLikeThreadFile(lines)) return 'jvm-threads-file';
  if (/^(?:Current thread|Thread) 0x[0-9a-f]+.* \(most recent call first\):/m.test(lines))
    return 'python-threads';
  if (/^(?:Stack|Traceback) \(most recent call first\):\r?\n {2}File "/m.test(lines)) return 'python-threads';
  if (/^(?:goroutine \d+ .*\[.*\]:|\d+ goroutines? \[.*\]:|goroutine profile: total \d+)/m.test(lines))
    return 'go-threads';
  return null;
}
