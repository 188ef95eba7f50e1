import * as v from 'valibot';
import { Count, summaryFindings, SummaryFindings, SummaryWarnings } from '../evidence/summary-parts';
import type { Warning } from '../formats/evidence-error';
import { greatestOf, leastOf } from '../stats/extremes';
import { findInSeries } from '../findings/thread-findings';
import type { DumpSeries, ThreadDump } from './model';

/** What a list of evidence says of a file of thread dumps. */
export const ThreadsSummary = v.object({
  dumps: Count,
  /** In the last dump. */
  threads: Count,
  runtime: v.string(),
  /** Epoch milliseconds of the first and the last dump; null where they have no time. A time without a zone is read in this machine's. */
  firstMs: v.nullable(v.number()),
  lastMs: v.nullable(v.number()),
  pid: v.number(),
  /** Equal for dumps of the same process, as far as dumps tell; '' where they do not. */
  process: v.optional(v.string(), ''),
  findings: v.optional(SummaryFindings, () => []),
  warnings: SummaryWarnings
});
export type ThreadsSummary = v.InferOutput<typeof ThreadsSummary>;

export function summariseThreads(series: DumpSeries, warnings: Warning[]): ThreadsSummary {
  const times = series.dumps.map(({ capturedAt }) => Date.parse(capturedAt)).filter(Number.isFinite);
  const last = series.dumps.at(-1)!;
  return {
    dumps: series.dumps.length,
    threads: last.threads.length,
    runtime: last.runtime,
    firstMs: times.length > 0 ? leastOf(times) : null,
    lastMs: times.length > 0 ? greatestOf(times) : null,
    pid: last.pid,
    process: processKey(last),
    findings: summaryFindings(findInSeries(series)),
    warnings
  };
}

/**
 * Names the process of a dump, as far as it tells: its number, or the addresses of a thread that is there all along (the first),
 * which hardly are those of another process. '' where neither is reported: such a dump stands alone.
 */
export function processKey({ pid, runtime, threads }: ThreadDump): string {
  if (pid > 0) return `${runtime} ${pid}`;
  const [first] = threads.filter(({ id, nativeId }) => nativeId !== '' || ADDRESS.test(id));
  return first ? `${runtime} ${first.id} ${first.nativeId}` : '';
}
const ADDRESS = /^0x[0-9a-f]{8,}$/;
