import { signalMeaning, exitMeaning } from '@tromix/core/crashes/signals';
import type { Crash, CrashFormat } from '@tromix/core/crashes/crash';
import { readCrash } from '@tromix/core/crashes/read';
import { inspectCrash, type InspectedCrash } from '@tromix/core/inspect/crash';
import type { Warning } from '@tromix/core/formats/evidence-error';
import { formatBytes, formatCount, formatDuration } from '@tromix/core/text/format';
import type { KindOnCommandLine } from './kind';

export const crash: KindOnCommandLine<CrashFormat, Crash, InspectedCrash> = {
  read: async (file, format) => ({ part: readCrash(await file.content(), format) }),
  inspect: ([one]) => ({ ...inspectCrash(one), warnings: [] as Warning[] }),
  *lines(found) {
    const { sentence, runtime, pid, uptimeMs, signal, exitCode, frames, memory, limits } = found;
    yield `  ${sentence}`;
    const process = [
      runtime,
      pid > 0 ? `process ${pid}` : '',
      uptimeMs === null ? '' : `up for ${formatDuration(uptimeMs * 1e6)}`
    ];
    yield `  ${process.filter(Boolean).join(', ')}`;
    if (signal) yield `  ${signal}: ${signalMeaning(signal)}`;
    else if (exitCode !== null) {
      const meaning = exitMeaning(exitCode, runtime);
      yield `  exit code ${exitCode}${meaning ? `: ${meaning}` : ''}`;
    }
    for (const frame of frames) yield `    ${frame}`;
    for (const { name, bytes } of memory) yield `  ${formatBytes(bytes).padStart(10)}  ${name}`;
    for (const { name, value, unit } of limits)
      if (value !== null)
        yield `  ${(unit === 'bytes' ? formatBytes(value) : formatCount(value)).padStart(10)}  limit of ${name}`;
  }
};
