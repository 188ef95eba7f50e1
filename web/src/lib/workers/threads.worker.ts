import { expose } from 'comlink';
import { EvidenceError, type Warning } from '@tromix/core/formats/evidence-error';
import type { ThreadContext, ThreadFinding } from '@tromix/core/findings/thread-finding';
import { findInThreads, threadContext } from '@tromix/core/findings/thread-findings';
import type { Profile } from '@tromix/core/profile/model';
import type { Words } from '@tromix/core/text/words';
import { joinSeries } from '@tromix/core/threads/join';
import { mergedStacks } from '@tromix/core/threads/merged';
import type { DumpSeries } from '@tromix/core/threads/model';
import { packSeries, type PackedSeries } from '@tromix/core/threads/packed';
import { threadsReading } from '@tromix/core/threads/reading';
import { loadDumps } from './load-dumps';

export interface ReadThreads extends Pick<ThreadContext, 'waits' | 'pools'> {
  series: PackedSeries;
  /** Dump → the file it came in, by its place among those opened. */
  partOf: number[];
  /** Of each dump. */
  findings: ThreadFinding[][];
  readings: Words[][];
  warnings: Warning[];
}

let series: DumpSeries | undefined;

/** Reads the dumps of one process off the page's main thread: a thin shell over core. */
const service = {
  async open(urls: readonly string[]): Promise<ReadThreads | { error: string }> {
    try {
      const parts = await Promise.all(urls.map(loadDumps));
      const { partOf, ...joined } = joinSeries(parts.map((part) => part.series));
      series = joined;
      const context = threadContext(joined, 0);
      return {
        series: packSeries(joined),
        partOf,
        waits: context.waits,
        pools: context.pools,
        findings: joined.dumps.map((_, dump) => findInThreads({ ...context, dump })),
        readings: joined.dumps.map((dump, i) =>
          threadsReading(joined.frames, dump, context.waits[i], context.pools[i])
        ),
        warnings: [
          ...parts.flatMap((part) => part.warnings),
          ...context.waits.flatMap(({ disagreements }) => disagreements)
        ]
      };
    } catch (cause) {
      if (cause instanceof EvidenceError) return { error: cause.message };
      throw cause;
    }
  },

  /** The stacks of threads of one dump, merged. */
  merged(dump: number, threads: readonly number[]): Profile {
    if (!series) throw new Error('No dump is open.');
    return mergedStacks(series, dump, threads);
  }
};
export type ThreadsService = typeof service;

expose(service);
