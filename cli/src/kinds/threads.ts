import { Warnings, type Warning } from '@tromix/core/formats/evidence-error';
import { inspectThreads, type InspectedThreads } from '@tromix/core/inspect/threads';
import { formatCount, plural } from '@tromix/core/text/format';
import { joinSeries } from '@tromix/core/threads/join';
import type { DumpSeries, ThreadFormat } from '@tromix/core/threads/model';
import { readThreads } from '@tromix/core/threads/read';
import { processKey } from '@tromix/core/threads/summary';
import { findingLines } from '../finding-lines';
import type { KindOnCommandLine } from './kind';

/** Dumps of one process are read as one series. */
export const threads: KindOnCommandLine<
  ThreadFormat,
  { series: DumpSeries; warnings: Warning[] },
  InspectedThreads
> = {
  async read(file, format) {
    const part = readThreads(await file.content(), format);
    // Dumps of different runtimes or processes are no series; nor are those that do not name their process.
    return { part, join: `${format} ${processKey(part.series.dumps.at(-1)!) || file.path}` };
  },
  inspect(parts, { top }) {
    const found = inspectThreads(joinSeries(parts.map(({ series }) => series)), top);
    return { ...found, warnings: summed([...parts.flatMap(({ warnings }) => warnings), ...found.warnings]) };
  },
  *lines({ dumps, stuck, findings }) {
    for (const { capturedAt, runtime, threads: count, states, rootBlockers, deadlocks, groups } of dumps) {
      const modes = Object.entries(states).map(([state, many]) => `${formatCount(many)} ${state}`);
      yield `  ${capturedAt ?? 'a dump without a time'}, ${runtime}: ${plural(count, 'thread')} (${modes.join(', ')})`;
      for (const { thread, lockClass, transitive, at } of rootBlockers)
        yield `    ${plural(transitive, 'thread')} behind ${thread}, which holds ${lockClass || 'a lock'}${at ? ` at ${at.function} (${at.file}:${at.line})` : ''}`;
      for (const { threads: cycle } of deadlocks) yield `    deadlock: ${cycle.join(' → ')} → ${cycle[0]}`;
      for (const { count: many, state, frames } of groups.filter((group) => group.frames.length > 0))
        yield `    ${formatCount(many).padStart(6)}  ${state.padEnd(13)}  ${frames[0]}`;
      yield '';
    }
    for (const { thread, dumps: times, computing, frames } of stuck)
      yield `  ${thread} did not move in ${plural(times, 'dump')}${computing === null ? '' : computing ? ', computing' : ', not computing'}: ${frames[0]}`;
    yield* findingLines(findings);
  }
};

/** The same warning of several files once, with its counts added up. */
function summed(all: readonly Warning[]): Warning[] {
  const sum = new Warnings();
  for (const { code, message, count } of all) sum.add(code, message, count);
  return sum.list();
}
