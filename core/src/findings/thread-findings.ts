import { across } from '../threads/across';
import type { DumpSeries } from '../threads/model';
import { poolsOf } from '../threads/pools';
import { waitsFor } from '../threads/waits-for';
import { findBy } from './define-rule';
import type { FoundInThreads, ThreadContext, ThreadFinding } from './thread-finding';
import { THREAD_RULES, type ThreadRule } from './thread-rules';

/** Everything about a series that rules and views share. */
export function threadContext(series: DumpSeries, dump: number): ThreadContext {
  return {
    series,
    waits: series.dumps.map(waitsFor),
    pools: series.dumps.map((one) => poolsOf(series.frames, one)),
    across: across(series),
    dump
  };
}

/** Everything the rules find in one dump of a series, and across all; what holds up most threads first. */
export const findInThreads = (context: ThreadContext): ThreadFinding<ThreadRule>[] =>
  findBy<ThreadRule, ThreadContext, FoundInThreads>(THREAD_RULES, context).sort((a, b) => b.cost - a.cost);

/** Findings of every dump, each reported once: of the last dump it was met in. */
export function findInSeries(series: DumpSeries): ThreadFinding<ThreadRule>[] {
  const context = threadContext(series, 0);
  const found = new Map<string, ThreadFinding<ThreadRule>>();
  series.dumps.forEach((_, dump) => {
    for (const finding of findInThreads({ ...context, dump })) {
      const { rule, evidence } = finding;
      found.set(`${rule} ${evidence.threads[0]} ${evidence.lock ?? ''}`, finding);
    }
  });
  return [...found.values()].sort((a, b) => b.cost - a.cost);
}
