import { across } from '../threads/across';
import type { DumpSeries } from '../threads/model';
import { poolsOf } from '../threads/pools';
import { waitsFor } from '../threads/waits-for';
import { deadlock } from './deadlock';
import { lockQueue } from './lock-queue';
import { poolExhausted } from './pool-exhausted';
import { stuckAcrossDumps } from './stuck-across-dumps';
import type { ThreadContext, ThreadFinding } from './thread-finding';

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
export function findInThreads(context: ThreadContext): ThreadFinding[] {
  return [lockQueue, deadlock, stuckAcrossDumps, poolExhausted]
    .flatMap((rule) => rule(context))
    .sort((a, b) => b.cost - a.cost);
}

/** Findings of every dump, each told once: of the last dump it was met in. */
export function findInSeries(series: DumpSeries): ThreadFinding[] {
  const context = threadContext(series, 0);
  const found = new Map<string, ThreadFinding>();
  series.dumps.forEach((_, dump) => {
    for (const finding of findInThreads({ ...context, dump })) {
      const { rule, evidence } = finding;
      found.set(`${rule} ${evidence.threads[0]} ${evidence.lock ?? ''}`, finding);
    }
  });
  return [...found.values()].sort((a, b) => b.cost - a.cost);
}
