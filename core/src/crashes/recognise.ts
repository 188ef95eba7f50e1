import type { FileHead } from '../formats/file-head';
import type { CrashFormat } from './crash';
import { endingIn } from './crash-text';
import { JVM_FATAL } from './jvm-fatal';
import { ENDS_PROCESS } from './node-crash';

/** The format of a crash by the beginning of its file; null for something else. */
export function recogniseCrash(head: FileHead): CrashFormat | null {
  if (head.isObject) {
    if (/^\{\s*"processEnd"\s*:/.test(head.text)) return 'process-end';
    const isReport =
      /^\{\s*"header"\s*:\s*\{/.test(head.text) && /"(?:nodejsVersion|reportVersion)"\s*:/.test(head.text);
    const [, trigger = ''] = /"trigger"\s*:\s*"(\w+)"/.exec(head.text) ?? [];
    return isReport && ENDS_PROCESS.test(trigger) ? 'node-crash' : null;
  }
  if (head.lines.includes(JVM_FATAL)) return 'jvm-fatal-log';
  return isEnding(head.lines) ? 'crash-text' : null;
}

/** A dump of threads that was asked for names goroutines and threads too. */
const isEnding = (text: string): boolean =>
  !/^(?:SIGQUIT: quit|Full thread dump )/m.test(text) && endingIn(text) !== null;
